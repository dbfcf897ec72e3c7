import { expect, test } from "vitest";
import { findingsByFile, installed, project, sleeve } from "../harness.ts";
import { right } from "./corpus/right.ts";
import { wrong } from "./corpus/wrong.ts";

const PACKAGES = {
  ...installed(
    "crane",
    "export interface Load { kilograms: number }\nexport declare class Crane { hoist(x: number): number; load(): Load; }",
  ),
  ...installed(
    "winch",
    "export declare class Winch { pull(): number; shutdown(): void; }\nexport declare function openWinch(): Winch;",
  ),
};

/** Returns the findings on each wrapper of a corpus, checked in one run. */
function check(codes: readonly string[]): readonly (readonly string[])[] {
  const files = codes.map((code, index) => [`src/w${index}.ts`, exported(code)] as const);
  const targets = files.map(([file]) => [`${file}#T`, [`${file}#w`]] as const);
  const root = project({
    ...PACKAGES,
    ...Object.fromEntries(files),
    "sleeve.config.ts": `export default { targets: ${JSON.stringify(Object.fromEntries(targets))} };`,
  });
  const { stdout, stderr } = sleeve(root, "check", "--json");
  expect(stderr).toBe("");
  const found = findingsByFile(stdout);
  return files.map(([file]) => found.get(file) ?? []);
}

/** Returns the code as a module that exports `T` and `w`. */
function exported(code: string): string {
  return code.replace(
    /(?<![\w{] )\b((?:abstract )?class|interface|type|const|function|async function|enum)(?= (?:T|w)\b)/g,
    "export $1",
  );
}

test("every wrong wrapper has exactly the findings of its fault", () => {
  expect(wrong).toHaveLength(94);
  const found = check(wrong.map(([, , code]) => code));
  const named = (findings: readonly string[], index: number) => `${wrong[index]?.[1]}: ${findings.join(" ")}`;
  expect(found.map(named)).toEqual(wrong.map(([findings], index) => named([findings], index)));
});

test("no conforming wrapper has a finding", () => {
  expect(right).toHaveLength(54);
  const found = check(right.map(([, code]) => code));
  const alarms = right.flatMap(([what], index) =>
    found[index]?.length === 0 ? [] : [`${what}: ${found[index]?.join(", ")}`],
  );
  expect(alarms).toEqual([]);
});
