import { type Code, owned } from "../../emit/code.ts";
import { ConstantNames, type ScenarioLine } from "./scenario-line.ts";

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

/** Returns the owner of errors in a line of a scenario. */
export function lineKey(title: string, index: number): string {
  return `line ${index} of ${title}`;
}

/** Returns a scenario as a function of the target's object. Each line is owned. */
export function scenarioCode({ title, lines }: Pick<Scenario, "title" | "lines">, object: string): Code {
  const [line] = lines;
  const names = new ConstantNames([object]);
  if (lines.length === 1 && line) return owned([lineKey(title, 0)], names.in(singleLine(line, object)));
  const isAsync = lines.some(({ needs }) => needs.hasAwait);
  const body = lines.map((item, index) => owned([lineKey(title, index)], `${names.in(lineCode(item))}\n`));
  return [`${isAsync ? "async " : ""}function* (${object}) {\n`, body, "}"];
}

function lineCode({ kind, name, type, code }: ScenarioLine): string {
  if (kind === "constant") return `const ${name}${type === undefined ? "" : `: ${type}`} = ${code};`;
  return kind === "compared" ? `yield ${code};` : `${code};`;
}

function singleLine({ code, needs }: ScenarioLine, object: string): string {
  // A returned promise is awaited.
  const returned = code.startsWith("await ") ? code.slice("await ".length) : code;
  const isAsync = needs.hasAwait && /\bawait\b/.test(returned);
  const value = returned.startsWith("{") ? `(${returned})` : returned;
  return `${isAsync ? "async " : ""}(${object}) => ${value}`;
}
