import { expect, test } from "vitest";
import { project, sampled, sleeve } from "../harness.ts";
import { FAULTS, STOP } from "./generated/faults.ts";
import { FORMS } from "./generated/forms.ts";

const LIBRARY = new URL("../../../sleeve", import.meta.url).pathname;

/** A generated wrapper and the findings it must have, as `name member`. */
interface Case {
  readonly name: string;
  readonly target: string;
  readonly wrapper: string;
  readonly files: Readonly<Record<string, string>>;
  readonly expected: readonly string[];
}

/** Returns the wrappers of every form with every fault, or of every form without it. */
function casesOf(kind: "wrong" | "right"): readonly Case[] {
  return FORMS.flatMap((form) =>
    FAULTS.flatMap((fault): Case[] => {
      const isExcluded = (kind === "right" && form.findings) || (fault.isAboutThis && form.bindsThis);
      const program = isExcluded ? undefined : form.write([...fault[kind], STOP], fault);
      if (!program) return [];
      const expected = kind === "wrong" ? [fault.finding, ...(form.findings ?? [])].sort() : [];
      const target = "target.ts" in program.files ? "target.ts" : "main.ts";
      return [{ name: `${fault.fault}, in ${form.form}`, ...program, target: `${target}#Target`, expected }];
    }),
  );
}

/** Checks wrappers in one run, and returns the findings of each. */
function findingsOn(cases: readonly Case[]): readonly (readonly string[])[] {
  const folder = (index: number) => `src/wrapper${index}`;
  const targets = cases.map(({ target, wrapper }, index) => [
    `${folder(index)}/${target}`,
    [`${folder(index)}/${wrapper}`],
  ]);
  const files = cases.flatMap(({ files }, index) =>
    Object.entries(files).map(([file, text]) => [`${folder(index)}/${file}`, text] as const),
  );
  const root = project({
    "package.json": '{ "type": "module" }',
    "tsconfig.json": JSON.stringify({
      compilerOptions: {
        strict: true,
        module: "nodenext",
        target: "es2023",
        lib: ["es2023", "dom"],
        types: [],
        noEmit: true,
        allowImportingTsExtensions: true,
        skipLibCheck: true,
        paths: { sleeve: [`${LIBRARY}/dist/index.d.ts`] },
      },
      include: ["src"],
    }),
    "sleeve.config.ts": `export default { targets: ${JSON.stringify(Object.fromEntries(targets))} };`,
    ...Object.fromEntries(files),
  });
  const { stdout, stderr } = sleeve(root, "check", "--json");
  expect(stderr).toBe("");
  const { wrappers } = JSON.parse(stdout) as {
    readonly wrappers: readonly {
      readonly wrapper: string;
      readonly findings: readonly Found[];
      readonly members: readonly { readonly findings: readonly Found[] }[];
    }[];
  };
  const found = new Map(
    wrappers.map(({ wrapper, findings, members }) => [
      wrapper,
      [...findings, ...members.flatMap((member) => member.findings)]
        // The compiler rejects some of them too.
        .filter(({ name }) => name !== "compile")
        .map(({ name, member }) => `${name} ${member}`)
        .sort(),
    ]),
  );
  return cases.map(({ wrapper }, index) => found.get(`${folder(index)}/${wrapper}`) ?? ["not checked"]);
}

interface Found {
  readonly name: string;
  readonly member: string | null;
}

test.each([
  { kind: "wrong", count: 4789 },
  { kind: "right", count: 4154 },
] as const)(
  "every $kind wrapper in every form has exactly the findings of its fault",
  { timeout: 600_000 },
  ({ kind, count }) => {
    const all = casesOf(kind);
    expect(all.length).toBe(count);
    const cases = sampled(all);
    const found = findingsOn(cases);
    const named = cases.map(({ name }, index) => `${name}: ${found[index]?.join(", ")}`);
    expect(named).toEqual(cases.map(({ name, expected }) => `${name}: ${expected.join(", ")}`));
  },
);

test("the generator is complete", () => {
  expect([FORMS.length, FAULTS.length]).toEqual([138, 36]);
});
