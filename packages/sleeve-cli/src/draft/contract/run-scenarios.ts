import { z } from "zod";
import { textOf } from "../../emit/code.ts";
import { runProgram } from "../../project/child-processes/run-program.ts";
import { type Scenario, scenarioCode } from "../scenarios/scenario.ts";
import type { ScenarioLeftOut } from "./contract-file.ts";

/** What a scenario did when it was run; no results if they cannot be written as source, or differ each time. */
export type ScenarioOutcome =
  | { readonly kind: "returned"; readonly results?: readonly string[] | undefined }
  | {
      readonly kind: "threw";
      readonly error: string;
      readonly message: string;
      readonly results?: readonly string[] | undefined;
    };

/** What the process that runs scenarios writes: the outcome of one, or why the adapter cannot be loaded. */
export type ScenarioResult =
  | { readonly index: number; readonly outcome: ScenarioOutcome }
  | { readonly unloaded: string };

const outcomeSchema = z.discriminatedUnion("kind", [
  z.strictObject({ kind: z.literal("returned"), results: z.array(z.string()).optional() }),
  z.strictObject({
    kind: z.literal("threw"),
    error: z.string(),
    message: z.string(),
    results: z.array(z.string()).optional(),
  }),
]);

const resultSchema: z.ZodType<ScenarioResult> = z.union([
  z.strictObject({ index: z.int().min(0), outcome: outcomeSchema }),
  z.strictObject({ unloaded: z.string() }),
]);

/** What the process that runs scenarios reads. */
export interface ScenariosTask {
  readonly object: string;
  /** The adapter, which may not be written yet. */
  readonly adapter: string;
  readonly adapterPath: string;
  /** Deadline of one scenario, in milliseconds. */
  readonly timeout: number;
  /** Source of each scenario, as a function of the object. */
  readonly scenarios: readonly string[];
}

/** Deadline of one scenario, in milliseconds. */
const TIMEOUT = 2_000;
/** Processor time of one process, in milliseconds. */
const PROCESSOR_TIME = 10_000;
/** Maximum number of processes, because a scenario may end its own or never return. */
const MAX_PROCESSES = 4;

/**
 * Runs scenarios on an adapter, and thereby the outside module, in a process of its own that is ended after 10 seconds of
 * processor time. Nothing that the module prints is shown. Results are recorded; scenarios that fail are left out, unless
 * callers handle the error.
 */
export function recordedScenarios(
  scenarios: readonly Scenario[],
  task: Pick<ScenariosTask, "object" | "adapter" | "adapterPath">,
  folder: string,
): { readonly scenarios: readonly Scenario[]; readonly leftOut: readonly ScenarioLeftOut[] } {
  const outcomes = outcomesOf(scenarios, task, folder);
  const recorded: Scenario[] = [];
  const leftOut: ScenarioLeftOut[] = [];
  for (const scenario of scenarios) {
    const outcome = outcomes.get(scenario);
    if (typeof outcome !== "object") {
      leftOut.push({ title: scenario.title, why: outcome ?? "it was not reached" });
    } else if (outcome.kind === "returned") {
      const { results } = outcome;
      recorded.push(results ? { ...scenario, record: { results, fails: false } } : scenario);
    } else if (scenario.lines.some(({ isHandled }) => isHandled)) {
      const { results } = outcome;
      recorded.push(results ? { ...scenario, record: { results, fails: true } } : scenario);
    } else leftOut.push({ title: scenario.title, why: `it throws ${outcome.error}: ${outcome.message}` });
  }
  return { scenarios: recorded, leftOut };
}

/** Returns the outcome of each scenario, or why it has none. */
function outcomesOf(
  scenarios: readonly Scenario[],
  task: Pick<ScenariosTask, "object" | "adapter" | "adapterPath">,
  folder: string,
): ReadonlyMap<Scenario, ScenarioOutcome | string> {
  const outcomes = new Map<Scenario, ScenarioOutcome | string>();
  let open = scenarios;
  for (let count = 1; open.length > 0; count++) {
    const sources = open.map((scenario) => textOf(scenarioCode(scenario, task.object)).text);
    const { results, failure = "it ends the process" } = runProgram({
      program: "./scenario-process.js",
      input: { ...task, timeout: TIMEOUT, scenarios: sources } satisfies ScenariosTask,
      result: resultSchema,
      folder,
      processorTime: PROCESSOR_TIME,
    });
    let unloaded: string | undefined;
    for (const result of results) {
      if ("unloaded" in result) unloaded = result.unloaded;
      else {
        const scenario = open[result.index];
        if (scenario) outcomes.set(scenario, result.outcome);
      }
    }
    open = open.filter((scenario) => !outcomes.has(scenario));
    // The next one is the scenario that ended the process.
    const isLast = unloaded !== undefined || count === MAX_PROCESSES;
    for (const scenario of isLast ? open : open.slice(0, 1)) outcomes.set(scenario, unloaded ?? failure);
    open = open.filter((scenario) => !outcomes.has(scenario));
  }
  return outcomes;
}
