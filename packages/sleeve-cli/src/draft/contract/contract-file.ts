import { printed } from "../../emit/printed.ts";
import type { Style } from "../../emit/style.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import type { Outline } from "../outline/model.ts";
import { lineKey, type Scenario } from "../scenarios/scenario.ts";
import { withoutLines, withoutUnused } from "../scenarios/separated.ts";
import {
  type ContractContent,
  type ContractSpecifiers,
  contractModule,
  scenarioKey,
} from "./contract-module.ts";

/** A scenario that the contract does not have. */
export interface ScenarioLeftOut {
  readonly title: string;
  readonly why: string;
}

export interface DraftedContract {
  readonly text: string;
  readonly count: number;
  readonly leftOut: readonly ScenarioLeftOut[];
}

export interface ContractPlace {
  /** Where it is compiled, beside the target, because tests may not be compiled with the project. */
  readonly compiledPath: string;
  readonly compiled: ContractSpecifiers;
  readonly written: ContractSpecifiers;
  readonly isScript: boolean;
  readonly style: Style;
  /** The other drafted files, by path. */
  readonly drafted: ReadonlyMap<string, string>;
}

/**
 * Writes a contract that compiles. Scenarios that do not compile are left out. Returns `undefined` if the project's
 * settings allow no contract.
 */
export function contractFileOf(
  outline: Outline,
  content: ContractContent,
  overlays: OverlayProgram,
  { compiledPath, compiled, written, isScript, style, drafted }: ContractPlace,
): DraftedContract | undefined {
  const settings = { language: isScript ? "module" : "typescript", style } as const;
  let { scenarios } = content;
  const leftOut: ScenarioLeftOut[] = [];
  for (;;) {
    const { text, ownersAt } = printed(
      contractModule(outline, { ...content, scenarios }, compiled),
      settings,
    );
    const errors = overlays.errorsWithin(new Map([...drafted, [compiledPath, text]]), [compiledPath]);
    if (errors.length === 0) break;
    const broken = new Map(
      errors.flatMap((error) => ownersAt(error.offset).map((owner) => [owner, error.text] as const)),
    );
    const remaining = scenarios.flatMap((scenario) => withoutBroken(scenario, broken, leftOut));
    if (remaining.every((scenario) => scenarios.includes(scenario)) && remaining.length === scenarios.length)
      return undefined;
    scenarios = remaining;
  }
  const { text } = printed(contractModule(outline, { ...content, scenarios }, written), settings);
  return { text, count: scenarios.length, leftOut };
}

/** Returns a scenario without lines that do not compile, and those that need them; none if nothing is left to compare. */
function withoutBroken(
  scenario: Scenario,
  broken: ReadonlyMap<string, string>,
  leftOut: ScenarioLeftOut[],
): readonly Scenario[] {
  const { title, lines } = scenario;
  const reasons = lines.map((_, index) => broken.get(lineKey(title, index)));
  const why = broken.get(scenarioKey(title)) ?? reasons.find((reason) => reason !== undefined);
  if (why === undefined) return [scenario];
  const isWhole = broken.has(scenarioKey(title));
  const remainingLines = isWhole
    ? []
    : withoutUnused(withoutLines(lines, (index) => reasons[index] !== undefined));
  const isCompared = remainingLines.some(({ kind }) => kind === "compared");
  for (const [index, line] of lines.entries()) {
    const reason = isCompared ? reasons[index] : undefined;
    if (reason !== undefined)
      leftOut.push({ title: line.members.join(".") || title, why: compileText(reason) });
  }
  if (!isCompared) leftOut.push({ title, why: compileText(why) });
  return isCompared ? [{ title, lines: remainingLines }] : [];
}

function compileText(reason: string): string {
  return `it does not compile: ${reason}`;
}
