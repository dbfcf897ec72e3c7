import { checkContract, contract, type FindingName, facadeOf } from "sleeve/conform";
import { describe, expect, test } from "vitest";

/** One step of the facades: what it does, and what undoes it. */
interface Step {
  run(input: string): Promise<string>;
  undo(result: string): Promise<void>;
}

type Subsystems = Readonly<Record<string, Step>>;
type Answer = Readonly<Record<string, string | boolean | undefined>>;

interface Office {
  admit(input: string): Promise<Answer>;
}

/** Groups of steps: those of one group run together, and the groups one after the other. */
type Plan = readonly (readonly string[])[];

const PLANS: readonly Plan[] = [
  [["berth"], ["tugs"]],
  [["berth", "tugs"]],
  [["berth"], ["tugs"], ["bell"]],
  [["berth", "tugs"], ["bell"]],
  [["berth"], ["tugs", "bell"]],
  [["berth", "tugs", "bell"]],
  [
    ["berth", "tugs"],
    ["bell", "lamp"],
  ],
];

/** How a facade is written by hand. */
interface Style {
  /** Whether a failure is an answer, and not an error. */
  readonly refuses: boolean;
  /** Whether the steps of a group are undone together. */
  readonly undoesTogether: boolean;
}

const STYLES: readonly Style[] = [
  { refuses: false, undoesTogether: false },
  { refuses: true, undoesTogether: true },
];

/** What goes wrong in a facade, and the findings that name it. */
const MISTAKES = {
  "forgets to undo the first step": ["undo"],
  "undoes from the first step on": ["undo"],
  "undoes with another value": ["undo"],
  "stops undoing when undoing a step fails": ["undo"],
  "answers as for a success when undoing a step fails": ["error", "undo"],
  "answers with the results so far when the last step fails": ["error", "undo"],
  "goes on after a step failed": ["step", "undo"],
} satisfies Readonly<Record<string, readonly FindingName[]>>;

type Mistake = keyof typeof MISTAKES;

/** A facade by hand, with at most one mistake. */
function officeOf(all: Subsystems, plan: Plan, style: Style, mistake?: Mistake): Office {
  return {
    async admit(input) {
      const results: Record<string, string> = {};
      const done: (readonly [name: string, result: string])[][] = [];
      const undo = async (name: string, result: string) => {
        try {
          await all[name]?.undo(mistake === "undoes with another value" ? "another" : result);
        } catch (error) {
          if (mistake?.includes("when undoing a step fails")) throw error;
        }
      };
      const undoAll = async () => {
        const groups = mistake === "undoes from the first step on" ? done : [...done].reverse();
        for (const [at, group] of groups.entries()) {
          const skipped = mistake === "forgets to undo the first step" && at === groups.length - 1 ? 1 : 0;
          const undone = mistake === "undoes from the first step on" ? group : group.toReversed();
          const left = undone.slice(0, undone.length - skipped);
          if (style.undoesTogether) await Promise.all(left.map(([name, result]) => undo(name, result)));
          else for (const [name, result] of left) await undo(name, result);
        }
      };
      for (const [at, group] of plan.entries()) {
        const ended = await Promise.allSettled(group.map((name) => all[name]?.run(input) as Promise<string>));
        const own: (readonly [string, string])[] = [];
        for (const [place, end] of ended.entries())
          if (end.status === "fulfilled") own.push([group[place] as string, end.value]);
        done.push(own);
        Object.assign(results, Object.fromEntries(own));
        const failed = ended.find((end) => end.status === "rejected");
        if (!failed || (mistake === "goes on after a step failed" && at < plan.length - 1)) continue;
        if (mistake === "answers with the results so far when the last step fails" && at === plan.length - 1)
          return results;
        try {
          await undoAll();
        } catch (error) {
          if (mistake === "answers as for a success when undoing a step fails") return results;
          throw error;
        }
        if (style.refuses) return { accepted: false };
        throw failed.reason;
      }
      return results;
    },
  };
}

function subsystems(plan: Plan): Subsystems {
  return Object.fromEntries(
    plan
      .flat()
      .map((name) => [
        name,
        { run: async (input: string) => `${name} of ${input}`, undo: async () => {} } satisfies Step,
      ]),
  );
}

const office = contract<Office>("Office", { surface: { admit: "method" } });

async function findingsOf(plan: Plan, style: Style, mistake?: Mistake): Promise<readonly string[]> {
  const undo = Object.fromEntries(plan.flat().map((name) => [`${name}.run`, `${name}.undo`]));
  const report = await checkContract(
    office,
    {
      office: facadeOf<Office, Subsystems>({
        subsystems: () => subsystems(plan),
        wrap: (all) => officeOf(all, plan, style, mistake),
        operations: { admit: { undo } },
      }),
    },
    { runs: 5, length: 3 },
  );
  const found = report.implementations.flatMap(({ checks }) => checks.flatMap(({ findings }) => findings));
  return [...new Set(found.map(({ name }) => name))].sort();
}

/** Whether a mistake can be seen: steps that run together may be undone in any order. */
function isVisible(plan: Plan, { undoesTogether }: Style, mistake: Mistake): boolean {
  switch (mistake) {
    case "undoes from the first step on":
      return plan.length > 2 || (plan.length > 1 && plan.some((group, at) => at > 0 && group.length > 1));
    case "stops undoing when undoing a step fails":
      // Two calls must undo steps one after the other.
      return undoesTogether ? plan.length + (plan.at(-1)?.length === 1 ? 0 : 1) > 2 : plan.flat().length > 2;
    case "answers as for a success when undoing a step fails":
      return plan.flat().length > 2 || plan.length > 1;
    case "goes on after a step failed":
      return plan.length > 1;
    default:
      return true;
  }
}

const forms = PLANS.flatMap((plan) => STYLES.map((style) => [JSON.stringify(plan), plan, style] as const));

describe("a facade by hand", () => {
  test.each(forms)("with the steps %s conforms", async (_name, plan, style) => {
    expect(await findingsOf(plan, style)).toEqual([]);
  });

  const wrong = forms.flatMap(([name, plan, style]) =>
    (Object.keys(MISTAKES) as Mistake[])
      .filter((mistake) => isVisible(plan, style, mistake))
      .map((mistake) => [name, mistake, plan, style] as const),
  );
  expect(wrong.length).toBeGreaterThan(70);

  test.each(wrong)("with the steps %s %s", async (_name, mistake, plan, style) => {
    const found = await findingsOf(plan, style, mistake);
    expect(found.length).toBeGreaterThan(0);
    expect(MISTAKES[mistake]).toEqual(expect.arrayContaining([...found]));
  });
});
