import fc from "fast-check";
import { RELEASE_NAMES } from "../../../shared/release-names.ts";
import type { Finding } from "../../finding.ts";
import { runSequence, type StepOutcome, UNSETTLED } from "../../sequences/sequence-run.ts";
import { asGenerated, type Step, sequencesOf } from "../../sequences/steps.ts";
import { stepsCode } from "../../sequences/steps-code.ts";
import type { Context } from "../../types.ts";
import { deepCopy, equalValues } from "../../values/equality.ts";
import { outcomeText } from "../../values/format.ts";
import { hasSucceeded, isSameOutcome } from "../outcomes.ts";
import { type Wrapping, withSpied } from "../probe.ts";

/**
 * Finds what depends on earlier calls, compared with a new adapter of the same adaptee: calls that are lost, and
 * results of an earlier call.
 */
export async function sequenceFindings(
  wrapping: Wrapping,
  context: Context<object>,
): Promise<readonly Finding[]> {
  const operations = (await context.operations()).filter(
    ({ use, label }) => use === "call" && !RELEASE_NAMES.includes(label),
  );
  if (operations.length === 0) return [];
  const { runs, length, seed, path } = context;
  const property = fc.asyncProperty(
    sequencesOf(operations, { length: Math.min(length, MAX_LENGTH), isConcurrent: false }),
    async (steps) => (await sequenceDifference(wrapping, steps, context)) === undefined,
  );
  const numRuns = Math.ceil(runs / SHARE);
  const details = await fc.check(property, { numRuns, seed, ...(path !== undefined && { path }) });
  if (!details.failed) return [];
  const finding = await sequenceDifference(
    wrapping,
    (details.counterexample as [readonly Step[]])[0],
    context,
  );
  if (!finding) return [];
  const { steps, fresh, used, isLost } = finding;
  const at = steps.length - 1;
  const after = `after ${at} ${at === 1 ? "call" : "calls"}: ${outcomeText(used)}`;
  return [
    {
      name: isLost ? "calls" : "result",
      place: (steps[at] as Step).operation.label,
      expected: `as a new adapter: ${outcomeText(fresh[at] as StepOutcome)}`,
      found: isLost
        ? `${after}, without calling the adaptee as often`
        : `${after}, as for the call before it`,
      remedy: isLost
        ? "Call the adaptee for each call, or suppress `calls` with the reason if the adapter keeps results."
        : "Return the result of this call, or suppress `result` with the reason.",
      code: stepsCode(steps, {
        outcomes: fresh,
        callbacks: [],
        mutated: [],
        given: new Map(),
        repeated: new Map(),
        reused: new Map(),
      }),
    },
  ];
}

/** Maximum length of a sequence, and the share of runs; a lost call needs few others. */
const MAX_LENGTH = 6;
const SHARE = 2;

/** The outcomes of steps, and for each step the calls of the adaptee. */
interface AdapterRun {
  readonly outcomes: readonly StepOutcome[];
  readonly calls: readonly unknown[][];
}

async function sequenceDifference(wrapping: Wrapping, drafts: readonly Step[], context: Context<object>) {
  const steps = drafts.map((step) => ({ ...step, args: step.args.map(asGenerated) }));
  const fresh = await runSteps(wrapping, steps, context, true);
  const reused = await runSteps(wrapping, steps, context, false);
  const isLost = (at: number) => (reused.calls[at]?.length ?? 0) < (fresh.calls[at]?.length ?? 0);
  const at = steps.findIndex(
    (_, index) =>
      !isSameOutcome(outcomeAt(reused, index), outcomeAt(fresh, index)) &&
      (isLost(index) || isLate(steps, reused, fresh, index)),
  );
  if (at < 0) return undefined;
  const again = await runSteps(wrapping, steps, context, true);
  // An adaptee that answers differently each time proves nothing.
  const isSteady = again.outcomes.every((outcome, index) => isSameOutcome(outcome, outcomeAt(fresh, index)));
  return isSteady
    ? {
        steps: steps.slice(0, at + 1),
        fresh: fresh.outcomes.slice(0, at + 1),
        used: outcomeAt(reused, at),
        isLost: isLost(at),
      }
    : undefined;
}

/** Whether a step made the calls of a new adapter, and returned the result of the last call of the same member. */
function isLate(steps: readonly Step[], reused: AdapterRun, fresh: AdapterRun, at: number): boolean {
  const label = steps[at]?.operation.label;
  const before = steps.findLastIndex(({ operation }, index) => index < at && operation.label === label);
  return (
    before >= 0 &&
    hasSucceeded(outcomeAt(reused, at)) &&
    equalValues(reused.calls[at], fresh.calls[at]) &&
    isSameOutcome(outcomeAt(reused, at), outcomeAt(fresh, before))
  );
}

/** Runs steps, each on a new adapter of one adaptee if `isNew`. */
async function runSteps(
  wrapping: Wrapping,
  steps: readonly Step[],
  context: Context<object>,
  isNew: boolean,
): Promise<AdapterRun> {
  const outcomes: StepOutcome[] = [];
  const calls: unknown[][] = [];
  await withSpied(wrapping, async (first, spy) => {
    let wrapper = first;
    for (const step of steps) {
      if (isNew && outcomes.length > 0) wrapper = await wrapping.wrap(spy.subject);
      spy.calls.length = 0;
      const [outcome] = (await runSequence(wrapper, [step], context)).outcomes;
      outcomes.push(outcome ?? UNSETTLED);
      calls.push(spy.calls.map(({ key, args }) => [key, deepCopy(args)]));
    }
  });
  return { outcomes, calls };
}

function outcomeAt({ outcomes }: AdapterRun, at: number): StepOutcome {
  return outcomes[at] ?? UNSETTLED;
}
