import { printed } from "../../emit/printed.ts";
import type { Style } from "../../emit/style.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import type { Outline } from "../outline/model.ts";
import {
  type ContractContent,
  type ContractSpecifiers,
  contractModule,
  scenarioKey,
} from "./contract-module.ts";
import { scenarioCode } from "./scenario.ts";

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
    if (broken.size === 0) return undefined;
    for (const scenario of scenarios) {
      const why = broken.get(scenarioKey(scenario.title));
      if (why === undefined) continue;
      const code = scenarioCode(scenario, outline.object).split("\n")[0] ?? "";
      leftOut.push({ title: scenario.title, why: `it does not compile: ${why} (${code})` });
    }
    scenarios = scenarios.filter(({ title }) => !broken.has(scenarioKey(title)));
  }
  const { text } = printed(contractModule(outline, { ...content, scenarios }, written), settings);
  return { text, count: scenarios.length, leftOut };
}
