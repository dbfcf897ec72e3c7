import type { Finding } from "../../finding.ts";
import type { Operation } from "../../sequences/operations.ts";
import type { Context } from "../../types.ts";
import { deepCopy, equalValues, isPlain } from "../../values/equality.ts";
import { formatValue } from "../../values/format.ts";
import { isObject, isPromise } from "../../values/schema.ts";
import { eachOperation, hasSucceeded, isSameOutcome, seenOutcome } from "../outcomes.ts";
import { callOf, otherPrimitive, type Probe, type Wrapping, withSpied } from "../probe.ts";
import { type AdapterCall, adapterCall, callAdapter } from "./adapter-call.ts";
import { isCommand } from "./commands.ts";

/**
 * Finds results that do not depend on what the adaptee answers, although it was called: dropped, constant or empty
 * ones. Calls without a result are left out.
 */
export async function independentResults(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  return eachOperation(probes, async (operation, ownProbes) => {
    let shown: unknown;
    let hasVaried = false;
    for (const { args, hint } of ownProbes) {
      if (!hasSucceeded(hint) || hint.raw === undefined || typeof hint.raw === "function") continue;
      let isVaried = false;
      const hinted = await adapterCall(wrapping, operation, args, context, (_, real) => {
        const answer = real();
        const vary = (value: unknown): unknown => {
          const varied = variedValue(value);
          isVaried ||= !equalValues(varied, value);
          return varied;
        };
        return isPromise(answer) ? (answer as Promise<unknown>).then(vary) : vary(answer);
      });
      if (!isVaried) continue;
      hasVaried = true;
      shown = hint.raw;
      if (!isSameOutcome(hinted.outcome, hint)) return undefined;
    }
    if (!hasVaried) return undefined;
    return {
      name: "result",
      place: operation.label,
      expected: "a result that depends on the adaptee's",
      found: `${formatValue(shown)}, whatever the adaptee returns`,
      remedy: `Derive the result from the adaptee's, or suppress \`result\` with the reason.`,
    };
  });
}

/**
 * Finds queries without a result: the adaptee answers with data, and answers so again, the member returns nothing, and
 * nothing that the adapter returns later has changed. Members named like commands are left out.
 */
export async function droppedResults(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  return eachOperation(probes, async (operation, ownProbes) => {
    if (isCommand(operation.label)) return undefined;
    const shown: unknown[] = [];
    for (const { args, hint } of ownProbes) {
      if (!hasSucceeded(hint) || args.some((argument) => typeof argument === "function")) continue;
      if (hint.raw !== undefined) return undefined;
      const [did, again] = await callTwice(wrapping, operation, args, context);
      if (did.answers.length === 0 || did.hasFailedInside) continue;
      const data = did.answers.at(-1);
      // An answer that changes from call to call belongs to a command, such as a receipt.
      if (!isData(data) || !equalValues(did.answers, again.answers)) return undefined;
      if (!shown.some((candidate) => equalValues(candidate, data))) shown.push(data);
    }
    // One text for all arguments, such as "queued", only says that the call succeeded.
    const isAnswer =
      operation.arity > 0 ? shown.length > 1 : shown.length > 0 && typeof shown[0] !== "string";
    if (!isAnswer || (await hasEffect(wrapping, operation, probes, context))) return undefined;
    return {
      name: "result",
      place: operation.label,
      expected: `a result made from ${formatValue(shown.at(-1))}, which the adaptee returns`,
      found: "none, and no effect on later results",
      remedy: "Return the result, or suppress `result` with the reason.",
    };
  });
}

function callTwice(
  wrapping: Wrapping,
  operation: Operation,
  args: readonly unknown[],
  context: Context<object>,
): Promise<readonly [AdapterCall, AdapterCall]> {
  return withSpied(wrapping, async (wrapper, spy) => [
    await callAdapter(wrapper, spy, operation, args, context),
    await callAdapter(wrapper, spy, operation, args, context),
  ]);
}

/** Whether calls of a member change what the adapter or its adaptee shows afterwards. */
async function hasEffect(
  wrapping: Wrapping,
  operation: Operation,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<boolean> {
  const others = probes.filter((probe) => probe.operation !== operation);
  const ownProbes = probes.filter((probe) => probe.operation === operation);
  const outcomesAfter = (before: readonly Probe[]) =>
    withSpied(wrapping, async (wrapper, { subject }) => {
      for (const { args } of before) await callOf(wrapper, operation, args, context).outcome;
      const outcomes: unknown[] = [];
      for (const probe of others)
        outcomes.push(seenOutcome(await callOf(wrapper, probe.operation, probe.args, context).outcome));
      const fields = Object.entries(subject).filter(([, value]) => typeof value !== "function");
      return deepCopy([outcomes, fields]);
    });
  return !equalValues(await outcomesAfter([]), await outcomesAfter(ownProbes));
}

/** Whether an answer is data, and not only a sign of success. */
function isData(value: unknown): boolean {
  if (typeof value === "number" || typeof value === "bigint") return true;
  if (typeof value === "string") return value !== "";
  return isObject(value) && isPlain(value) && Object.keys(value).length > 0;
}

/** Returns a value of the same shape with other content. */
function variedValue(value: unknown, depth = 0): unknown {
  if (!isObject(value)) return otherPrimitive(value);
  if (depth > 3) return value;
  if (Array.isArray(value)) return value.map((item) => variedValue(item, depth + 1));
  if (Object.getPrototypeOf(value) !== Object.prototype) return value;
  return Object.fromEntries(Object.entries(value).map(([key, item]) => [key, variedValue(item, depth + 1)]));
}
