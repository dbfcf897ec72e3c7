import { SleeveError } from "../errors.ts";
import { behaviourFindings } from "./checks/behaviour.ts";
import { surfaceFindings } from "./checks/surface.ts";
import { exampleFindings, refusalFindings, watchingErrors } from "./checks/terms.ts";
import { differenceOutcome } from "./compare.ts";
import { type CheckOptions, type Context, contextOf } from "./context.ts";
import type { Contract } from "./contract.ts";
import type { Coverage } from "./coverage.ts";
import type { Finding } from "./finding.ts";
import {
  type Given,
  type Implementation,
  implementationOf,
  isWrapper,
  lend,
  untyped,
  type Waived,
} from "./implementation.ts";
import { withStrays } from "./strays.ts";
import { errorText } from "./text.ts";

/** One thing to check of an implementation, with a name that states what holds. */
export interface Check {
  readonly name: string;
  run(): Promise<CheckResult>;
}

export interface CheckResult {
  readonly findings: readonly Finding[];
  /** What was found and is meant, each with the reason. */
  readonly waived: readonly { readonly finding: Finding; readonly reason: string }[];
  /** What could not be checked, and why. */
  readonly notes: readonly string[];
}

/** What a check comes to before it is known what is waived. */
export type Outcome =
  | readonly Finding[]
  | { readonly findings: readonly Finding[]; readonly notes: readonly string[] };

/**
 * The checks that a contract comes to for one implementation: its surface, its examples, laws and refusals, how it bears
 * generated calls, whether it answers as the reference does, and the laws of its kind.
 */
export function checksOf<Target extends object>(
  contract: Contract<Target>,
  given: Given<Target>,
  options: CheckOptions & { readonly coverage?: Coverage } = {},
): readonly Check[] {
  const implementation = implementationOf(given);
  const context = contextOf(contract, implementation, options, options.coverage);
  const own = [...contractChecks(context)];
  const ofKind = isWrapper(implementation)
    ? // The laws of a kind ask nothing of the type.
      implementation.checks(context as unknown as Context<object>)
    : [];
  return [...own, ...ofKind].map(({ name, run }) => ({
    name,
    run: async () => settled(await run(), implementation.waives),
  }));
}

/** A check that has not been settled with what is waived. */
export function check(name: string, run: () => Promise<Outcome>): Check {
  return {
    name,
    run: async () => {
      try {
        const { result, strays } = await withStrays(run);
        const { findings, notes } = "findings" in result ? result : { findings: result, notes: [] };
        return { findings: [...findings, ...strays.slice(0, 1).map(strayFinding)], waived: [], notes };
      } catch (error) {
        return { findings: [setupFinding(name, error)], waived: [], notes: [] };
      }
    },
  };
}

/** What the contract itself comes to, without the laws of a kind. */
export function contractChecks<Target extends object>(context: Context<Target>): readonly Check[] {
  const { contract, implementation, coverage } = context;
  const { examples, laws, refusals } = contract;
  // A stand-in knows the calls that were recorded, and no others.
  const isRecorded = isWrapper(implementation) && implementation.kind === "stand-in";
  return [
    check("has every member of its surface", () =>
      lend(implementation, (made) => surfaceFindings(made, context)),
    ),
    ...Object.entries(examples).map(([name, example]) =>
      watched(context, name, (one) =>
        lend(one, (made) => exampleFindings(name, example, made, context.deadline)),
      ),
    ),
    ...Object.entries(laws).map(([name, law]) =>
      watched(context, name, (one) => law.findings(name, one, context as unknown as Context<object>)),
    ),
    ...Object.entries(refusals).map(([name, refusal]) =>
      watched(context, `refuses ${name}`, (one) =>
        lend(one, (made) => {
          coverage.noteRefusal(name);
          return refusalFindings(name, refusal, made, context.deadline);
        }),
      ),
    ),
    ...(isRecorded
      ? []
      : [
          check("ends every call, and leaves its arguments and itself as they are", async () => {
            const { length } = await context.operations();
            const notes = length > 0 ? [] : ["There is nothing to call or read, so that nothing was tried."];
            return { findings: await behaviourFindings(implementation, context), notes };
          }),
        ]),
    ...(contract.reference && !isRecorded
      ? [referenceCheck(context, implementationOf(contract.reference))]
      : []),
  ];
}

/** A check in which the use of the implementation is counted, and in which an error that escapes is what is told. */
function watched<Target extends object>(
  { contract: { errors }, implementation, coverage }: Context<Target>,
  name: string,
  run: (implementation: Implementation<Target>) => Promise<readonly Finding[]>,
): Check {
  return check(name, async () => {
    const escaped: Finding[] = [];
    const originals = new WeakMap<Target, Target>();
    const found = await run({
      ...implementation,
      create: async () => {
        const made = await implementation.create();
        const counted = coverage.of(made);
        const watching = errors ? watchingErrors(counted, errors, escaped) : counted;
        originals.set(watching, made);
        return watching;
      },
      release: (made) => implementation.release?.(originals.get(made) ?? made),
    });
    // An error that escaped is why the check failed, so it is told in place of the check's own finding.
    return escaped.length > 0 ? escaped : found;
  });
}

function referenceCheck<Target extends object>(
  context: Context<Target>,
  reference: Implementation<Target>,
): Check {
  return check("answers as the reference does", async () =>
    differenceOutcome(
      { reference: untyped(reference), named: "the reference" },
      untyped(context.implementation),
      await context.operations(),
      context,
      { equal: context.contract.equal, errors: "class" },
    ),
  );
}

function settled({ findings, notes }: CheckResult, waives: Waived = {}): CheckResult {
  const waived = findings.flatMap((finding) => {
    const reason = waives[finding.name];
    return reason === undefined ? [] : [{ finding, reason }];
  });
  return { findings: findings.filter(({ name }) => waives[name] === undefined), waived, notes };
}

function strayFinding(error: unknown): Finding {
  return {
    name: "escaped",
    place: "no call",
    expected: "every error to reach the caller",
    found: `one that nobody could catch: ${errorText(error)}`,
    remedy: "Wait for what is put off, and give its promise back to the caller.",
  };
}

function setupFinding(name: string, error: unknown): Finding {
  if (error instanceof SleeveError && error.code === "BAD_CONTRACT") {
    const remedy = "Correct the contract; nothing is said of the implementation.";
    return {
      name: "setup",
      place: name,
      expected: "a contract that can be run",
      found: error.message,
      remedy,
    };
  }
  return {
    name: "setup",
    place: name,
    expected: "an implementation that can be made, used and released",
    found: errorText(error),
    remedy: "Correct what makes or releases it.",
  };
}
