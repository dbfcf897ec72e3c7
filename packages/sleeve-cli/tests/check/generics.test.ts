import { expect, test } from "vitest";
import { project, sleeve } from "../harness.ts";

/** The members of a store, with the names of its type parameters. */
interface Members {
  readonly get: string;
  readonly set: string;
  readonly each: string;
}

const RIGHT: Members = {
  get: "get(key: Key): Value | undefined { return this.all.get(key); }",
  set: "set(key: Key, value: Value): void { this.all.set(key, value); }",
  each: "each<Result>(run: (value: Value) => Result): Result[] { return [...this.all.values()].map(run); }",
};

/** Mistakes about type parameters, with the finding of each. */
const FAULTS: Readonly<Record<string, { readonly change: Partial<Members>; readonly finding: string }>> = {
  "a key of the other type": {
    change: { get: "get(key: Value): Value | undefined { return key; }" },
    finding: "parameter get",
  },
  "a result of the other type": {
    change: { get: "get(key: Key) { return this.all.has(key) ? key : undefined; }" },
    finding: "result get",
  },
  "an untyped result": {
    change: { get: "get(key: Key): any { return this.all.get(key); }" },
    finding: "unproven get",
  },
  "a value that is dropped": {
    change: { set: "set(key: Key): void { this.all.delete(key); }" },
    finding: "unused set",
  },
  "results of the other type": {
    change: {
      each: "each(run: (value: Value) => unknown): Value[] { [...this.all.values()].map(run); return [...this.all.values()]; }",
    },
    finding: "result each",
  },
};

interface Form {
  readonly write: (members: string) => string;
  /** Whether the wrapper is compared for certain types only. */
  readonly isPlain?: boolean;
  /** Whether type arguments are inferred from the first member type that mentions a type parameter. */
  readonly isInferred?: boolean;
}

const FIELD = "all = new Map<Key, Value>();";

const FORMS: Readonly<Record<string, Form>> = {
  "a class": { write: (members) => `export class wrapper<Key, Value> { ${FIELD}\n${members}\n}` },
  "a class with other names": {
    write: (members) =>
      `export class wrapper<K, V> { all = new Map<K, V>();\n${members.replaceAll("Key", "K").replaceAll("Value", "V")}\n}`,
  },
  "a class expression": {
    write: (members) => `export const wrapper = class<Key, Value> { ${FIELD}\n${members}\n};`,
  },
  "a subclass": {
    write: (members) =>
      `class Base<Key, Value> { ${FIELD}\n${members}\n}\nexport class wrapper<Key, Value> extends Base<Key, Value> {}`,
  },
  "a factory": {
    write: (members) =>
      `export function wrapper<Key, Value>() { return { ${FIELD.replace(" = ", ": ").replace(";", ",")}\n${listed(members)}\n}; }`,
  },
  "an arrow function": {
    write: (members) =>
      `export const wrapper = <Key, Value>() => ({ all: new Map<Key, Value>(),\n${listed(members)}\n});`,
  },
  "a factory behind another": {
    isInferred: true,
    write: (members) =>
      `function inner<Name, Item>() { type Key = Name; type Value = Item; return { all: new Map<Key, Value>(),\n${listed(members)}\n}; }\nexport function wrapper<Key, Value>() { return inner<Key, Value>(); }`,
  },
  "a factory of instances": {
    write: (members) =>
      `class Impl<Key, Value> { ${FIELD}\n${members}\n}\nexport const wrapper = <Key, Value>() => new Impl<Key, Value>();`,
  },
  "an instance for certain types": {
    isPlain: true,
    write: (members) =>
      `class Impl<Key, Value> { ${FIELD}\n${members}\n}\nexport const wrapper = new Impl<string, number>();`,
  },
  "a factory for certain types": {
    isPlain: true,
    isInferred: true,
    write: (members) =>
      `function inner<Key, Value>() { return { all: new Map<Key, Value>(),\n${listed(members)}\n}; }\nexport const wrapper = inner<string, number>();`,
  },
  "an annotated factory for certain types": {
    isPlain: true,
    isInferred: true,
    write: (members) =>
      `function inner<Key, Value>() { return { all: new Map<Key, Value>(),\n${listed(members)}\n}; }\nexport const wrapper: Target<string, number> = inner<string, number>();`,
  },
};

/** The members of a class as those of an object literal. */
function listed(members: string): string {
  return members.replaceAll(/\}$/gm, "},");
}

const cases = Object.entries(FORMS).flatMap(([form, { write, isPlain = false, isInferred = false }]) =>
  [["no fault", { change: {}, finding: undefined }] as const, ...Object.entries(FAULTS)].map(
    ([fault, { change, finding }]) => {
      const { get, set, each } = { ...RIGHT, ...change };
      return {
        name: `${fault}, in ${form}`,
        isPlain,
        isInferred,
        text: write([get, set, each].join("\n")),
        finding,
      };
    },
  ),
);

const TARGET = `export interface Target<Key, Value> {
  get(key: Key): Value | undefined;
  set(key: Key, value: Value): void;
  each<Result>(run: (value: Value) => Result): Result[];
}
`;

test("wrappers of generic targets have exactly the findings of their faults", { timeout: 120_000 }, () => {
  expect(cases).toHaveLength(66);
  const files = cases.map(({ isPlain, text }, index) => [
    `src/wrapper${index}.ts`,
    `${TARGET}${isPlain ? "export type Wanted = Target<string, number>;\n" : ""}${text}\n`,
  ]);
  const targets = cases.map(({ isPlain }, index) => [
    `src/wrapper${index}.ts#${isPlain ? "Wanted" : "Target"}`,
    [`src/wrapper${index}.ts#wrapper`],
  ]);
  const root = project({
    "package.json": '{ "type": "module" }',
    "tsconfig.json": JSON.stringify({
      compilerOptions: { strict: true, module: "nodenext", target: "es2023", noEmit: true, types: [] },
      include: ["src"],
    }),
    "sleeve.config.ts": `export default { targets: ${JSON.stringify(Object.fromEntries(targets))} };`,
    ...Object.fromEntries(files),
  });
  const { stdout } = sleeve(root, "check", "--json");
  const { wrappers } = JSON.parse(stdout) as {
    readonly wrappers: readonly {
      readonly wrapper: string;
      readonly findings: readonly { readonly name: string; readonly member: string | null }[];
      readonly members: readonly {
        readonly findings: readonly { readonly name: string; readonly member: string | null }[];
      }[];
    }[];
  };
  const found = new Map(
    wrappers.map(({ wrapper, findings, members }) => [
      wrapper,
      [
        ...new Set(
          [...findings, ...members.flatMap((member) => member.findings)].map(
            ({ name, member }) => `${name} ${member}`,
          ),
        ),
      ],
    ]),
  );
  const named = cases.map(
    ({ name }, index) =>
      `${name}: ${found.get(`src/wrapper${index}.ts#wrapper`)?.join(", ") ?? "not checked"}`,
  );
  const asInferred = (text: string, isInferred: boolean) =>
    isInferred ? text.replace(/: (?:parameter|result) /, ": parameter or result ") : text;
  expect(named.map((text, index) => asInferred(text, cases[index]?.isInferred === true))).toEqual(
    cases.map(({ name, finding, isInferred }) => asInferred(`${name}: ${finding ?? ""}`, isInferred)),
  );
});
