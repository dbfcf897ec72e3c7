import fc from "fast-check";
import { expect, test } from "vitest";
import { installed, project, sleeve } from "../harness.ts";

const CRANE = `
export interface Load { tons: number; sling?: string }
export declare class Crane { constructor(id: string); lift(load: Load): this; load: Load; static limit: number }
export declare function weigh(load: Load): number;
`;

/** Statements, each with its exact uses. */
const STATEMENTS: readonly (readonly [statement: string, ...uses: readonly string[]])[] = [
  ["crane.lift({ tons: 1 });", "Crane.lift call"],
  ['crane["lift"]({ tons: 1 });', "Crane.lift call"],
  ["crane?.lift({ tons: 1 }).lift(crane.load);", "Crane.lift call", "Crane.lift call", "Crane.load read"],
  ["crane.load = { tons: 2 };", "Crane.load write"],
  ["{ const { load } = crane; void load; }", "Crane.load read"],
  ["{ const { load: { tons: weight } } = crane; void weight; }", "Crane.load read", "Load.tons read"],
  ["void [crane].map(({ load }) => load.sling);", "Crane.load read", "Load.sling read"],
  ["void (crane instanceof Crane);", "Crane instanceof"],
  ["void Crane.limit;", "Crane read", "Crane.limit read"],
  ["void weigh(crane.load);", "weigh call", "Crane.load read"],
  ["void [weigh];", "weigh read"],
  ["{ let other: Load = { tons: 3 }; void other; }", "Load type"],
  ["{ class Big extends Crane {} void new Big('b').lift; }", "Crane extend", "Crane.lift read"],
  // Code that only looks like a use.
  ["{ class Crane { lift() {} load = 1; } new Crane().lift(); }"],
  ["{ const weigh = (tons: number) => tons; weigh(1); }"],
  ["{ const own = { lift: 1, load: { tons: 2 } }; void own.load.tons; void own.lift; }"],
  ['// crane.lift({ tons: 1 }); import "crane";'],
  ['void "crane.lift, weigh";'],
];

test("survey finds exactly the uses in generated programs", () => {
  const programs = fc.array(fc.array(fc.constantFrom(...STATEMENTS), { maxLength: 12 }), {
    minLength: 1,
    maxLength: 6,
  });
  fc.assert(
    fc.property(programs, (files) => {
      const sources = files.map((statements, index) => [
        `src/file${index}.ts`,
        [
          'import { Crane, type Load, weigh } from "./yard.ts";',
          "declare const crane: Crane;",
          ...statements.map(([statement]) => statement),
        ].join("\n"),
      ]);
      const root = project({
        ...installed("crane", CRANE),
        "src/yard.ts": 'export { Crane, type Load, weigh } from "crane";',
        ...Object.fromEntries(sources),
      });
      const run = sleeve(root, "survey", "--json");
      const { packages } = JSON.parse(run.stdout) as {
        packages: readonly {
          members: readonly { member: string; kinds: Readonly<Record<string, number>> }[];
        }[];
      };
      const found = packages.flatMap(({ members }) =>
        members.flatMap(({ member, kinds }) =>
          Object.entries(kinds).flatMap(([kind, count]) => Array<string>(count).fill(`${member} ${kind}`)),
        ),
      );
      // The type of the constant that each file declares.
      const declared = files.map(() => "Crane type");
      const expected = files.flat().flatMap(([, ...uses]) => uses);
      expect(found.sort()).toEqual([...expected, ...declared].sort());
    }),
    { numRuns: 12, seed: 7 },
  );
});

interface MemberPlan {
  readonly name: string;
  readonly target: string;
  readonly wrapper: string;
}

const types = fc.constantFrom(
  "string",
  "number",
  "boolean",
  "readonly string[]",
  "{ a: number }",
  "() => void",
);

/** A member of a target, and a conforming member of a wrapper. */
const members: fc.Arbitrary<Omit<MemberPlan, "name">> = fc.oneof(
  types.map((type) => ({ target: `readonly NAME: ${type}`, wrapper: `declare readonly NAME: ${type}` })),
  types.map((type) => ({ target: `NAME: ${type}`, wrapper: `declare NAME: ${type}` })),
  types.map((type) => ({ target: `NAME?: ${type}`, wrapper: `declare NAME?: ${type}` })),
  fc.tuple(fc.array(types, { maxLength: 3 }), types, fc.boolean()).map(([parameters, result, isAsync]) => {
    const list = parameters.map((type, index) => `p${index}: ${type}`).join(", ");
    const answer = isAsync ? `Promise<${result}>` : result;
    return { target: `NAME(${list}): ${answer}`, wrapper: `NAME(${list}): ${answer} { throw ""; }` };
  }),
);

/** Faults in a member of a wrapper, each with its finding. */
const SPOILS: readonly {
  readonly finding: string;
  readonly spoil: (member: MemberPlan) => string | undefined;
}[] = [
  { finding: "missing", spoil: ({ target }) => (target.includes("?:") ? undefined : "") },
  {
    finding: "unproven",
    spoil: ({ name, wrapper }) =>
      wrapper.includes("(p") ? undefined : wrapper.includes("{ throw") ? undefined : `declare ${name}: any`,
  },
  {
    finding: "kind",
    spoil: ({ name, wrapper }) => (wrapper.includes("{ throw") ? `declare ${name}: 1` : undefined),
  },
  {
    finding: "result",
    spoil: ({ wrapper }) =>
      spoiled(wrapper, /\): (?!Promise)[^{]*(\{ a: number \})? ?\{ throw/, "): symbol { throw"),
  },
  {
    finding: "async",
    spoil: ({ wrapper }) => spoiled(wrapper, /\): Promise<(.*)> \{ throw/, "): $1 { throw"),
  },
  {
    finding: "parameter",
    spoil: ({ wrapper }) => spoiled(wrapper, /\(p0: (?:\(\) => void|[^,)]*)/, "(p0: symbol"),
  },
];

function spoiled(wrapper: string, from: RegExp, to: string): string | undefined {
  return from.test(wrapper) ? wrapper.replace(from, to) : undefined;
}

test("check finds nothing in generated conforming wrappers, and the injected fault in others", () => {
  const plans = fc.array(members, { minLength: 1, maxLength: 5 });
  const cases = fc.sample(plans, { numRuns: 300, seed: 11 }).map((list, index) => {
    const named = list.map(({ target, wrapper }, at) => ({
      name: `m${at}`,
      target: target.replace("NAME", `m${at}`),
      wrapper: wrapper.replace("NAME", `m${at}`),
    }));
    const victim = named[index % named.length] as MemberPlan;
    // The first fault that applies to this member, rotated for each case.
    const ways = SPOILS.map((_, at) => SPOILS[(index + at) % SPOILS.length] as (typeof SPOILS)[number]);
    const way = ways.find(({ spoil }) => spoil(victim) !== undefined);
    return { named, victim, finding: way?.finding ?? "", replacement: way?.spoil(victim) };
  });
  const source = cases.flatMap(({ named, victim, replacement }, index) => [
    `export interface Target${index} { ${named.map(({ target }) => target).join("; ")} }`,
    `export abstract class Right${index} { ${named.map(({ wrapper }) => wrapper).join("; ")} }`,
    `export abstract class Wrong${index} { ${named.map((item) => (item === victim ? (replacement ?? item.wrapper) : item.wrapper)).join("; ")} }`,
  ]);
  const targets = cases.map((_, index) => [
    `src/a.ts#Target${index}`,
    [`src/a.ts#Right${index}`, `src/a.ts#Wrong${index}`],
  ]);
  const root = project({
    "src/a.ts": source.join("\n"),
    "sleeve.config.ts": `export default ${JSON.stringify({ targets: Object.fromEntries(targets) })};`,
  });
  const run = sleeve(root, "check", "--json");
  expect(run.stderr).toBe("");
  const { wrappers } = JSON.parse(run.stdout) as {
    wrappers: readonly {
      wrapper: string;
      members: readonly { member: string; findings: readonly { name: string }[] }[];
      findings: readonly unknown[];
    }[];
  };
  const found = new Map(
    wrappers.map(({ wrapper, members: judged, findings }) => [
      wrapper,
      [
        ...judged.flatMap(({ member, findings: own }) => own.map(({ name }) => `${name} ${member}`)),
        ...findings,
      ],
    ]),
  );
  cases.forEach(({ victim, finding, replacement }, index) => {
    const expected = replacement === undefined ? [] : [`${finding} ${victim.name}`];
    expect([source[index * 3], found.get(`src/a.ts#Right${index}`)]).toEqual([source[index * 3], []]);
    expect([source[index * 3], source[index * 3 + 2], found.get(`src/a.ts#Wrong${index}`)]).toEqual([
      source[index * 3],
      source[index * 3 + 2],
      expected,
    ]);
  });
  // Every fault occurred more than once.
  for (const { finding } of SPOILS) {
    expect([finding, cases.filter((testCase) => testCase.finding === finding).length > 3]).toEqual([
      finding,
      true,
    ]);
  }
});
