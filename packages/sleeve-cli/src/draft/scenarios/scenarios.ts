import type { Program } from "../../compiler/program.ts";
import type { Node } from "../../compiler/typescript.ts";
import { CallerCode } from "./caller-code.ts";
import { type LeftOutUse, Observations, type ObservedTarget } from "./observations.ts";
import type { Scenario } from "./scenario.ts";
import { noNeeds, PRINTED, ScenarioCode, type ScenarioLine } from "./scenario-code.ts";
import { ScenarioTypes } from "./scenario-types.ts";
import { isFunctionNode } from "./syntax-of-functions.ts";
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
const MOST_LINES = 30;

/**
 * Returns short uses of a target from the code of its callers, with the values that callers pass: each name is replaced
 * by what it stands for. Uses whose values are known only at run time are left out.
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
  const read = (container: Node, variant: number): boolean => {
    const scope = flow.scopeWithin(container, variant);
    if (!scope) return false;
    const scenario = new ScenarioCode(code, flow, types, target);
    const observations = new Observations(code, flow, target, scenario);
    observations.read(container, scope);
    for (const inner of observations.called) called.add(inner);
    if (variant === 0) leftOut.push(...observations.leftOut);
    for (const lines of separated(scenario.lines)) {
      const key = lines.map((line) => `${line.kind} ${line.code}`).join("\n");
      if (!collected.has(key)) collected.set(key, { title: titleOf(lines, nameOf), lines });
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
  const covered = new Set(
    scenarios.flatMap(({ lines }) => lines.flatMap(({ members }) => members.join("."))),
  );
  return { scenarios, leftOut: distinct(leftOut).filter(({ member }) => !covered.has(member)) };
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

/**
 * Divides lines into groups that have no constants in common. A use whose error is handled ends its group, so it has one
 * of its own. Groups without a value to compare are dropped.
 */
function separated(lines: readonly ScenarioLine[]): readonly (readonly ScenarioLine[])[] {
  const groups = joinedByConstants(lines.filter(({ isHandled }) => !isHandled));
  const handled = lines
    .filter(({ isHandled, kind }) => isHandled && kind === "compared")
    .map((line) => [...lines.slice(0, lines.indexOf(line)).filter(({ kind }) => kind === "constant"), line]);
  return [...groups, ...handled]
    .map(withPrinted)
    .map(withoutUnused)
    .filter((group) => group.some(({ kind }) => kind === "compared"));
}

function joinedByConstants(lines: readonly ScenarioLine[]): readonly (readonly ScenarioLine[])[] {
  let groups: { readonly names: Set<string>; readonly lines: Set<ScenarioLine> }[] = [];
  for (const line of lines) {
    const names = new Set([...line.needs.constants, ...(line.name === undefined ? [] : [line.name])]);
    const joined = { names, lines: new Set<ScenarioLine>() };
    const others: typeof groups = [];
    for (const group of groups) {
      if (![...names].some((name) => group.names.has(name))) {
        others.push(group);
        continue;
      }
      for (const name of group.names) joined.names.add(name);
      for (const member of group.lines) joined.lines.add(member);
    }
    joined.lines.add(line);
    groups = [...others, joined];
  }
  return groups.map((group) => lines.filter((line) => group.lines.has(line)).slice(0, MOST_LINES));
}

/** Compares what callbacks print, at the end. */
function withPrinted(lines: readonly ScenarioLine[]): readonly ScenarioLine[] {
  const last = lines.findLast(({ needs }) => needs.constants.has(PRINTED));
  if (!last) return lines;
  const needs = { ...noNeeds(), constants: new Set([PRINTED]) };
  return [...lines, { ...last, kind: "compared", name: "", code: PRINTED, needs }];
}

/** Leaves out uses after the last value to compare, and constants that no line needs. */
function withoutUnused(lines: readonly ScenarioLine[]): readonly ScenarioLine[] {
  const last = lines.findLastIndex(({ kind }) => kind === "compared");
  let remaining = lines.slice(0, last + 1);
  for (;;) {
    const needed = new Set(remaining.flatMap(({ needs }) => [...needs.constants]));
    const next = remaining.filter(({ kind, name }) => kind !== "constant" || needed.has(name ?? ""));
    if (next.length === remaining.length) return next;
    remaining = next;
  }
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
