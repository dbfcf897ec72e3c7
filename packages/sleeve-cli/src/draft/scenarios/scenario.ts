import type { ScenarioLine } from "./scenario-code.ts";

/** A short use of the target, as callers use it, for the contract. */
export interface Scenario {
  /** `price, as in src/rental.ts`. */
  readonly title: string;
  readonly lines: readonly ScenarioLine[];
  /** What it gave when it was run, as source; none if it was not run or gives values that no source shows. */
  readonly record?: ScenarioRecord | undefined;
}

export interface ScenarioRecord {
  /** Source of each result. */
  readonly results: readonly string[];
  readonly fails: boolean;
}

/** Returns a scenario as a function of the target's object. */
export function scenarioCode({ lines }: Pick<Scenario, "lines">, object: string): string {
  const [line] = lines;
  if (lines.length === 1 && line) return singleLine(line, object);
  const isAsync = lines.some(({ needs }) => needs.hasAwait);
  const body = lines.map(({ kind, name, type, code }) => {
    if (kind === "constant") return `const ${name}${type === undefined ? "" : `: ${type}`} = ${code};`;
    return kind === "compared" ? `yield ${code};` : `${code};`;
  });
  return `${isAsync ? "async " : ""}function* (${object}) {\n${body.join("\n")}\n}`;
}

function singleLine({ code, needs }: ScenarioLine, object: string): string {
  // A returned promise is awaited.
  const returned = code.startsWith("await ") ? code.slice("await ".length) : code;
  const isAsync = needs.hasAwait && /\bawait\b/.test(returned);
  const value = returned.startsWith("{") ? `(${returned})` : returned;
  return `${isAsync ? "async " : ""}(${object}) => ${value}`;
}
