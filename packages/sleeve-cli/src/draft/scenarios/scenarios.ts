import type { Program } from "../../compiler/program.ts";
import type { Node } from "../../compiler/typescript.ts";
import { textOf } from "../../emit/code.ts";
import { parse } from "../../parser/parse.ts";
import { CallerCode } from "./caller-code.ts";
import { isFunctionNode } from "./caller-syntax.ts";
import { type LeftOutUse, Observations, type ObservedTarget } from "./observations.ts";
import { type Scenario, scenarioCode } from "./scenario.ts";
import { ScenarioCode } from "./scenario-code.ts";
import type { ScenarioLine } from "./scenario-line.ts";
import { ScenarioTypes } from "./scenario-types.ts";
import { separated } from "./separated.ts";
import { ValueFlow } from "./value-flow.ts";

export interface CallerScenarios {
  readonly scenarios: readonly Scenario[];
  /** Uses that no scenario has. */
  readonly leftOut: readonly LeftOutUse[];
}

export interface CallerFiles {
  /** Files that use the target. */
  readonly callers: readonly string[];
  /** The callers, and files that may call their functions. */
  readonly reached: readonly string[];
  /** Returns the name of a file in messages. */
  readonly nameOf: (path: string) => string;
}

/** Number of calls of one function that are followed. */
const VARIANTS = 3;
const MOST_SCENARIOS = 40;

/**
 * Returns short uses of a target from the code of its callers, with the values that callers pass: each name is replaced
 * by its value. Uses whose values are known only at run time are left out.
 */
export function scenariosOf(
  program: Program,
  { callers, reached, nameOf }: CallerFiles,
  target: ObservedTarget,
): CallerScenarios {
  const code = new CallerCode(program, reached);
  const flow = new ValueFlow(code, target.adapterPath);
  const types = new ScenarioTypes(code);
  const collected = new Map<string, Scenario>();
  const leftOut: LeftOutUse[] = [];
  const called = new Set<Node>();
  const uses = new Set<Node>();
  const read = (container: Node, variant: number): boolean => {
    const scope = flow.scopeWithin(container, variant);
    if (!scope || collected.size >= MOST_SCENARIOS) return false;
    const scenario = new ScenarioCode(code, flow, types, target);
    const observations = new Observations(code, flow, target, scenario);
    observations.read(container, scope);
    for (const inner of [...observations.called, ...scenario.copies]) called.add(inner);
    for (const use of scenario.uses) uses.add(use);
    if (variant === 0) leftOut.push(...observations.leftOut);
    for (const lines of separated(scenario.lines)) {
      const { text } = textOf(scenarioCode({ title: "", lines }, target.object));
      if (!collected.has(text) && isParsable(text))
        collected.set(text, { title: titleOf(lines, nameOf), lines });
    }
    return true;
  };
  // What runs when a file is loaded calls functions with the values of the project.
  const sources = reached.flatMap((path) => code.sourceOf(path) ?? []);
  for (const source of sources) read(source, 0);
  const functions = callers.flatMap((path) => code.sourceOf(path) ?? []).flatMap(functionsIn);
  for (const container of functions)
    for (let variant = 0; variant < VARIANTS && !called.has(container); variant++)
      if (!read(container, variant)) break;
  const scenarios = numbered([...collected.values()].slice(0, MOST_SCENARIOS));
  return { scenarios, leftOut: distinct(leftOut.filter(({ node }) => !uses.has(node))) };
}

/** Whether code can be parsed: texts that are put together may not fit. */
function isParsable(code: string): boolean {
  return parse("scenario.ts", `(${code});`, { lang: "ts" }).errors.length === 0;
}

/** Returns the functions of a file, in order. */
function functionsIn(source: Node): readonly Node[] {
  const functions: Node[] = [];
  const visit = (node: Node): void => {
    if (isFunctionNode(node)) functions.push(node);
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return functions;
}

/** Names a scenario after the function of the caller, or the members whose results it compares. */
function titleOf(lines: readonly ScenarioLine[], nameOf: CallerFiles["nameOf"]): string {
  const compared = lines.filter(({ kind }) => kind === "compared");
  const origins = new Set(compared.map(({ origin }) => origin));
  const names = new Set(compared.flatMap(({ members }) => members.at(-1) ?? []));
  const [origin] = origins;
  const subject = origins.size === 1 && origin !== undefined ? origin : [...names].slice(0, 3).join(", ");
  return `${subject}, as in ${nameOf(compared[0]?.file ?? "")}`;
}

function numbered(scenarios: readonly Scenario[]): readonly Scenario[] {
  const counts = new Map<string, number>();
  return scenarios.map((scenario) => {
    const count = (counts.get(scenario.title) ?? 0) + 1;
    counts.set(scenario.title, count);
    return count === 1 ? scenario : { ...scenario, title: `${scenario.title}, ${count}` };
  });
}

function distinct(uses: readonly LeftOutUse[]): readonly LeftOutUse[] {
  return [...new Map(uses.map((use) => [use.member, use])).values()];
}
