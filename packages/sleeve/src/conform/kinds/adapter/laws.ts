import fc from "fast-check";
import { RELEASE_NAMES } from "../../../shared/release-names.ts";
import type { Finding } from "../../finding.ts";
import type { Operation } from "../../sequences/operations.ts";
import { runSequence, type StepOutcome } from "../../sequences/sequence-run.ts";
import { asGenerated, type Step, sequencesOf } from "../../sequences/steps.ts";
import { stepsCode } from "../../sequences/steps-code.ts";
import type { Context } from "../../types.ts";
import { deepCopy, equalValues } from "../../values/equality.ts";
import { formatValue, outcomeText } from "../../values/format.ts";
import { isObject, isPromise } from "../../values/schema.ts";
import { callOf, type Probe, type Wrapping, withSpied } from "../probe.ts";
import type { Script, Spied } from "../spy.ts";

/** What one call of an adapter did: the calls of the adaptee, and the outcome. */
interface AdapterCall {
  readonly calls: readonly (readonly [key: PropertyKey | undefined, args: readonly unknown[]])[];
  readonly outcome: StepOutcome;
}

/** Returns what a call of an adapter does, with the adaptee following a script. */
function adapterCall(
  wrapping: Wrapping,
  operation: Operation,
  args: readonly unknown[],
  context: Context<object>,
  script?: Script,
): Promise<AdapterCall> {
  return withSpied(wrapping, async (wrapper, spy) => {
    spy.script = script;
    const outcome = await callOf(wrapper, operation, deepCopy(args), context).outcome;
    return { calls: callsOf(spy), outcome };
  });
}

function callsOf({ calls }: Spied<object>): AdapterCall["calls"] {
  return calls.map(({ key, args }) => [key, deepCopy(args)]);
}

/**
 * Finds results that do not depend on what the adaptee answers, although it was called: dropped, constant or empty
 * ones. Calls without a result are left out.
 */
export async function independentResults(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  return eachOperation(probes, async (operation, own) => {
    let shown: unknown;
    let hasVaried = false;
    for (const { args, hint } of own) {
      if (!hasResult(hint)) continue;
      let isVaried = false;
      const other = await adapterCall(wrapping, operation, args, context, (_, real) => {
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
      if (!equalValues(outcomeOf(other.outcome), outcomeOf(hint))) return undefined;
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
 * Finds arguments that change neither the calls of the adaptee nor the result, whatever their kind. Arguments that the
 * contract generates are left out: all of them may mean the same, such as times of one day.
 */
export async function independentArguments(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  return eachOperation(probes, async (operation, own) => {
    if (operation.isTyped) return undefined;
    const reaching: { readonly args: readonly unknown[]; readonly did: AdapterCall }[] = [];
    for (const { args, hint } of own) {
      if (hint.status !== "returned" && hint.status !== "resolved") continue;
      if (args.some((argument) => typeof argument === "function")) continue;
      const did = await adapterCall(wrapping, operation, args, context);
      // A function that the adapter passes may hold the arguments.
      const isVisible = did.calls.every(([, sent]) => sent.every((value) => typeof value !== "function"));
      if (did.calls.length > 0 && isVisible) reaching.push({ args, did });
    }
    const length = await declaredLength(wrapping, operation);
    for (let place = 0; place < length; place += 1) {
      const values = reaching.filter(({ args }) => place < args.length);
      let tried = 0;
      let matters = false;
      for (const { args, did } of values) {
        for (const { args: others } of values) {
          if (equalValues(others[place], args[place])) continue;
          const changed = await adapterCall(wrapping, operation, args.with(place, others[place]), context);
          tried += 1;
          matters ||= !isSameCall(did, changed);
          if (matters) break;
        }
        if (matters) break;
      }
      if (tried < 2 || matters) continue;
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

/** Returns the number of parameters that a member declares. */
function declaredLength(wrapping: Wrapping, { key }: Operation): Promise<number> {
  return withSpied(wrapping, async (wrapper) => {
    const method: unknown = key === undefined ? wrapper : Reflect.get(wrapper, key);
    return typeof method === "function" ? method.length : 0;
  });
}

/** Finds members that neither call the adaptee nor return anything. */
export async function emptyMembers(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  return eachOperation(probes, async (operation, own) => {
    if (RELEASE_NAMES.includes(operation.label)) return undefined;
    for (const { args, hint } of own) {
      if (hint.status !== "returned" && hint.status !== "resolved") return undefined;
      if (hint.raw !== undefined) return undefined;
      const { calls } = await adapterCall(wrapping, operation, args, context);
      if (calls.length > 0) return undefined;
    }
    return {
      name: "calls",
      place: operation.label,
      expected: "a call of the adaptee, or a result",
      found: "neither, with any arguments",
      remedy: "Implement it, or suppress `calls` with the reason if there is nothing to do.",
    };
  });
}

/**
 * Finds calls that are lost between others: an adapter that was used before calls its adaptee less often than a new one
 * of the same adaptee, and answers otherwise.
 */
export async function lostCalls(wrapping: Wrapping, context: Context<object>): Promise<readonly Finding[]> {
  const operations = (await context.operations()).filter(
    ({ use, label }) => use === "call" && !RELEASE_NAMES.includes(label),
  );
  if (operations.length === 0) return [];
  const { runs, length, seed, path } = context;
  const property = fc.asyncProperty(
    sequencesOf(operations, { length: Math.min(length, MAX_LENGTH), isConcurrent: false }),
    async (steps) => (await lostCall(wrapping, steps, context)) === undefined,
  );
  const numRuns = Math.ceil(runs / SHARE);
  const details = await fc.check(property, { numRuns, seed, ...(path !== undefined && { path }) });
  if (!details.failed) return [];
  const lost = await lostCall(wrapping, (details.counterexample as [readonly Step[]])[0], context);
  if (!lost) return [];
  const { steps, fresh, used } = lost;
  const at = steps.length - 1;
  return [
    {
      name: "calls",
      place: (steps[at] as Step).operation.label,
      expected: `as a new adapter: ${outcomeText(fresh[at] as StepOutcome)}`,
      found: `after ${at} ${at === 1 ? "call" : "calls"}: ${outcomeText(used)}, without calling the adaptee as often`,
      remedy:
        "Call the adaptee for each call, or suppress `calls` with the reason if the adapter keeps results.",
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

async function lostCall(wrapping: Wrapping, drafts: readonly Step[], context: Context<object>) {
  const steps = drafts.map((step) => ({ ...step, args: step.args.map(asGenerated) }));
  const runs = async (isNew: boolean) => {
    const outcomes: StepOutcome[] = [];
    const counts: number[] = [];
    await withSpied(wrapping, async (first, spy) => {
      let wrapper = first;
      for (const step of steps) {
        if (isNew && outcomes.length > 0) wrapper = await wrapping.wrap(spy.subject);
        spy.calls.length = 0;
        const [outcome] = (await runSequence(wrapper, [step], context)).outcomes;
        outcomes.push(outcome ?? { status: "unsettled", raw: undefined, value: undefined });
        counts.push(spy.calls.length);
      }
    });
    return { outcomes, counts };
  };
  const [fresh, used] = [await runs(true), await runs(false)];
  const at = used.counts.findIndex(
    (count, index) =>
      count < (fresh.counts[index] ?? 0) &&
      !equalValues(
        outcomeOf(used.outcomes[index] as StepOutcome),
        outcomeOf(fresh.outcomes[index] as StepOutcome),
      ),
  );
  if (at < 0) return undefined;
  const again = await runs(true);
  // An adaptee that answers differently each time proves nothing.
  const isSteady = again.outcomes.every((outcome, index) =>
    equalValues(outcomeOf(outcome), outcomeOf(fresh.outcomes[index] as StepOutcome)),
  );
  return isSteady
    ? {
        steps: steps.slice(0, at + 1),
        fresh: fresh.outcomes.slice(0, at + 1),
        used: used.outcomes[at] as StepOutcome,
      }
    : undefined;
}

async function eachOperation(
  probes: readonly Probe[],
  examine: (operation: Operation, own: readonly Probe[]) => Promise<Finding | undefined>,
): Promise<readonly Finding[]> {
  const findings: Finding[] = [];
  for (const operation of new Set(probes.map((probe) => probe.operation))) {
    const finding = await examine(
      operation,
      probes.filter((probe) => probe.operation === operation),
    );
    if (finding) findings.push(finding);
  }
  return findings;
}

function hasResult({ status, raw }: StepOutcome): boolean {
  return (status === "returned" || status === "resolved") && raw !== undefined && typeof raw !== "function";
}

function outcomeOf({ status, value }: StepOutcome): readonly unknown[] {
  return [status, value];
}

function isSameCall(left: AdapterCall, right: AdapterCall): boolean {
  return (
    equalValues(left.calls, right.calls) && equalValues(outcomeOf(left.outcome), outcomeOf(right.outcome))
  );
}

/** Returns a value of the same shape with other content. */
function variedValue(value: unknown, depth = 0): unknown {
  switch (typeof value) {
    case "number":
      return value + 7;
    case "bigint":
      return value + 7n;
    case "string":
      return `${value}1`;
    case "boolean":
      return !value;
    default:
  }
  if (!isObject(value) || depth > 3) return value;
  if (Array.isArray(value)) return value.map((item) => variedValue(item, depth + 1));
  if (Object.getPrototypeOf(value) !== Object.prototype) return value;
  return Object.fromEntries(Object.entries(value).map(([key, item]) => [key, variedValue(item, depth + 1)]));
}
