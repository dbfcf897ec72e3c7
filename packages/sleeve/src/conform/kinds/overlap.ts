import type { Finding } from "../finding.ts";
import { macrotask, type StepOutcome, UNSETTLED } from "../sequences/sequence-run.ts";
import type { Context } from "../types.ts";
import { deepCopy } from "../values/equality.ts";
import { outcomeText } from "../values/format.ts";
import { isPromise } from "../values/schema.ts";
import { eachOperation, hasSucceeded, isSameOutcome } from "./outcomes.ts";
import { type Called, callOf, type Probe, type Wrapping, withSpied } from "./probe.ts";

/** Number of calls that overlap. */
const OVERLAPPING = 3;

/**
 * Finds results that get lost or mixed up while other calls of the member are in flight. The adaptee answers them in
 * the order of the calls, or in reverse.
 */
export async function overlapFindings(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  return eachOperation(probes, async (operation, ownProbes) => {
    const some = ownProbes.filter(({ hint }) => hint.status === "resolved");
    const calls = Array.from({ length: OVERLAPPING }, (_, at) => some[at % some.length]).flatMap(
      (probe) => probe ?? [],
    );
    if (calls.length === 0) return undefined;
    const alone = await overlapping(wrapping, calls, context, "none");
    for (const order of ["first", "last"] as const) {
      const together = await overlapping(wrapping, calls, context, order);
      // An adapter may refuse a call while another one is in flight.
      const at = together.findIndex(
        (outcome, index) =>
          (hasSucceeded(outcome) || outcome.status === "unsettled") &&
          !isSameOutcome(outcome, alone[index] ?? UNSETTLED),
      );
      if (at < 0) continue;
      const again = await overlapping(wrapping, calls, context, "none");
      if (!again.every((outcome, index) => isSameOutcome(outcome, alone[index] ?? UNSETTLED)))
        return undefined;
      return {
        name: "result",
        place: operation.label,
        expected: `as without other calls: ${outcomeText(alone[at] ?? UNSETTLED)}`,
        found: `with ${OVERLAPPING - 1} other calls in flight: ${outcomeText(together[at] ?? UNSETTLED)}`,
        remedy: "Keep what belongs to a call in its own variables, or suppress `result` with the reason.",
      };
    }
    return undefined;
  });
}

/** Makes calls one after the other, or together with the adaptee's answers held back and released in an order. */
function overlapping(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
  released: "none" | "first" | "last",
): Promise<readonly StepOutcome[]> {
  return withSpied(wrapping, async (wrapper, spy) => {
    const gates: (() => void)[] = [];
    spy.script = (_, real) => {
      const answer = real();
      if (released === "none" || !isPromise(answer)) return answer;
      const gate = new Promise<void>((resolve) => gates.push(resolve));
      return (answer as Promise<unknown>).finally(() => gate);
    };
    const outcomes: StepOutcome[] = [];
    const called: Called[] = [];
    for (const { operation, args } of probes) {
      const call = callOf(wrapper, operation, deepCopy(args), context);
      if (released === "none") outcomes.push(await call.outcome);
      else called.push(call);
    }
    if (released === "none") return outcomes;
    // Each answer may lead to further calls of the adaptee.
    for (let turn = 0; turn < MAX_TURNS && called.some((call) => !call.isSettled()); turn += 1) {
      await macrotask();
      const next = released === "first" ? gates.shift() : gates.pop();
      next?.();
    }
    for (const release of gates) release();
    return Promise.all(called.map(({ outcome }) => outcome));
  });
}

/** Maximum number of answers that are released one at a time. */
const MAX_TURNS = 100;
