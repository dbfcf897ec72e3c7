import type { Finding } from "../../finding.ts";
import type { Operation } from "../../sequences/operations.ts";
import type { StepOutcome } from "../../sequences/sequence-run.ts";
import type { Context } from "../../types.ts";
import { equalValues } from "../../values/equality.ts";
import { eachOperation, hasSucceeded, isSameOutcome } from "../outcomes.ts";
import type { Probe, Wrapping } from "../probe.ts";
import { type AdapterCall, adapterCall } from "./adapter-call.ts";

/**
 * Finds arguments that change neither the calls of the adaptee nor the result, whatever their kind. Arguments that the
 * contract generates are left out: all of them may mean the same, such as times of one day.
 */
export async function independentArguments(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  return eachOperation(probes, async (operation, ownProbes) => {
    if (operation.isTyped) return undefined;
    const samples = await samplesOf(wrapping, operation, ownProbes, context);
    for (let place = 0; place < operation.arity; place += 1) {
      if (!(await isIndependent(wrapping, operation, place, samples, context))) continue;
      return {
        name: "argument",
        place: operation.label,
        expected: `argument ${place + 1} to change what the adaptee is called with, or the result`,
        found: `the same calls and results, whatever argument ${place + 1} is`,
        remedy: `Use the argument, or suppress \`argument\` with the reason.`,
      };
    }
    return undefined;
  });
}

/** A call of an adapter, and whether its arguments could have reached the adaptee where they can be seen. */
interface Sample {
  readonly args: readonly unknown[];
  readonly did: AdapterCall;
  readonly isReaching: boolean;
}

async function samplesOf(
  wrapping: Wrapping,
  operation: Operation,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Sample[]> {
  const samples: Sample[] = [];
  for (const { args, hint } of probes) {
    if (hint.status === "unsettled" || args.some((argument) => typeof argument === "function")) continue;
    const did = await adapterCall(wrapping, operation, args, context);
    // A call may fail before its arguments are used, except if the adaptee refuses those that it received.
    const isRefusal = did.hasFailedInside && (did.calls.at(-1)?.[1].length ?? 0) > 0;
    if (!hasSucceeded(hint) && !isRefusal) continue;
    // A function that the adapter passes may hold the arguments, and then an empty result shows nothing.
    const isVisible =
      hasContent(did.outcome) ||
      did.calls.every(([, sent]) => sent.every((value) => typeof value !== "function"));
    samples.push({ args, did, isReaching: did.calls.length > 0 && isVisible });
  }
  return samples;
}

/** Whether an argument never matters, also in calls that do without the adaptee. */
async function isIndependent(
  wrapping: Wrapping,
  operation: Operation,
  place: number,
  samples: readonly Sample[],
  context: Context<object>,
): Promise<boolean> {
  const values = samples.filter(({ args }) => place < args.length);
  let tried = 0;
  for (const { args, did, isReaching } of values) {
    for (const { args: others } of values) {
      if (equalValues(others[place], args[place])) continue;
      const changed = await adapterCall(wrapping, operation, args.with(place, others[place]), context);
      if (!isSameCall(did, changed)) return false;
      if (isReaching) tried += 1;
    }
  }
  return tried >= 2;
}

/** Whether a promise was resolved with data. A result that is there at once may be a token, such as of a listener. */
function hasContent({ status, raw }: StepOutcome): boolean {
  if (status !== "resolved") return false;
  return typeof raw === "object" && raw !== null ? Object.keys(raw).length > 0 : typeof raw === "string";
}

function isSameCall(left: AdapterCall, right: AdapterCall): boolean {
  return equalValues(left.calls, right.calls) && isSameOutcome(left.outcome, right.outcome);
}
