import fc from "fast-check";
import { layer } from "../../../layers/layer.ts";
import { decorate } from "../../../wrappers/decorate.ts";
import type { Finding } from "../../finding.ts";
import type { Operation } from "../../sequences/operations.ts";
import { macrotask } from "../../sequences/sequence-run.ts";
import type { Context } from "../../types.ts";
import { formatValue } from "../../values/format.ts";
import { hasSucceeded } from "../outcomes.ts";
import { callOf, type Wrapping, withSpied } from "../probe.ts";

/** A call that a guard must reject. */
interface RefusedCall {
  readonly operation: Operation;
  readonly args: readonly unknown[];
}

/** Values that comparisons and conversions treat in their own way. */
const AWKWARD: readonly unknown[] = [
  Number.NaN,
  -0,
  Number.POSITIVE_INFINITY,
  Number.NEGATIVE_INFINITY,
  undefined,
  null,
  "",
];

/** Number of generated argument lists, and of calls before a refused one. */
const LISTS = 24;
const CALLS_BEFORE = 4;

/**
 * Checks that a call which a guard rejects is rejected after any other calls, and that a rejected argument is rejected
 * beside any other arguments. Only arguments that are rejected beside all allowed ones are tried.
 */
export async function refusalFindings(
  wrapping: Wrapping,
  name: string,
  call: (guarded: object) => unknown,
  context: Context<object>,
): Promise<readonly Finding[]> {
  const refused = await refusedCall(wrapping, call, context);
  if (!refused) return [];
  const { operation, args } = refused;
  const allowed = await allowedLists(wrapping, operation, context);
  for (const list of allowed) {
    const before = Array.from({ length: CALLS_BEFORE }, () => list);
    const reached = await reaches(wrapping, operation, args, context, before);
    if (reached) return [unguarded(name, operation, args, `${CALLS_BEFORE} allowed calls before it`)];
  }
  for (const [place, value] of args.entries()) {
    const others = allowed.filter((list) => place < list.length);
    if (others.length === 0 || !(await isRefusedBeside(wrapping, operation, value, place, others, context)))
      continue;
    for (const list of others.slice(0, 2)) {
      for (const tried of [...besideAwkward(list, place, value), ...inOtherItems(list, place, value)])
        if (await reaches(wrapping, operation, tried, context))
          return [unguarded(name, operation, tried, "other arguments beside the refused one")];
    }
  }
  return [];
}

/** Returns the last call that a statement makes on a guard, if that one fails. */
function refusedCall(
  wrapping: Wrapping,
  call: (guarded: object) => unknown,
  context: Context<object>,
): Promise<RefusedCall | undefined> {
  return withSpied(wrapping, async (wrapper) => {
    const instance: { readonly label: string; readonly args: readonly unknown[] }[] = [];
    const noting = layer("noting", {
      call:
        (next, { label }) =>
        (given) => {
          instance.push({ label, args: [...given.args] });
          return next(given);
        },
    });
    try {
      await call(decorate(wrapper, noting));
      return undefined;
    } catch {
      const last = instance.at(-1);
      const operation = (await context.operations()).find(
        ({ use, label }) => use === "call" && label === last?.label,
      );
      return last && operation && { operation, args: last.args };
    }
  });
}

/** Returns generated arguments that the guard lets through. */
async function allowedLists(
  wrapping: Wrapping,
  operation: Operation,
  context: Context<object>,
): Promise<readonly (readonly unknown[])[]> {
  const allowed: (readonly unknown[])[] = [];
  for (const list of fc.sample(operation.args, { seed: context.seed, numRuns: LISTS }))
    if (list.every(isPrimitiveOrList) && (await reaches(wrapping, operation, list, context)))
      allowed.push(list);
  return allowed;
}

function isPrimitiveOrList(value: unknown): boolean {
  return Array.isArray(value) || (typeof value !== "object" && typeof value !== "function") || value === null;
}

/** Whether a value is rejected in a place, whatever allowed arguments are beside it. */
async function isRefusedBeside(
  wrapping: Wrapping,
  operation: Operation,
  value: unknown,
  place: number,
  lists: readonly (readonly unknown[])[],
  context: Context<object>,
): Promise<boolean> {
  for (const list of lists)
    if (await reaches(wrapping, operation, list.with(place, value), context)) return false;
  return true;
}

function besideAwkward(
  list: readonly unknown[],
  place: number,
  value: unknown,
): readonly (readonly unknown[])[] {
  return list.flatMap((_, candidate) =>
    candidate === place ? [] : AWKWARD.map((awkward) => list.with(place, value).with(candidate, awkward)),
  );
}

/** A refused list of one item is refused with that item anywhere among allowed ones. */
function inOtherItems(
  list: readonly unknown[],
  place: number,
  value: unknown,
): readonly (readonly unknown[])[] {
  const items = list[place];
  if (!Array.isArray(value) || value.length !== 1 || !Array.isArray(items)) return [];
  const [refused] = value as readonly unknown[];
  return [
    [...items, refused],
    [refused, ...items],
    [...items, refused, ...items],
  ].map((mixed) => list.with(place, mixed));
}

/** Whether a call, after others, reaches the subject or succeeds. */
function reaches(
  wrapping: Wrapping,
  operation: Operation,
  args: readonly unknown[],
  context: Context<object>,
  before: readonly (readonly unknown[])[] = [],
): Promise<boolean> {
  return withSpied(wrapping, async (wrapper, spy) => {
    for (const list of before) await callOf(wrapper, operation, list, context).outcome;
    spy.calls.length = 0;
    const outcome = await callOf(wrapper, operation, args, context).outcome;
    if (outcome.status === "rejected") await macrotask();
    return hasSucceeded(outcome) || spy.calls.some(({ key }) => key === operation.key);
  });
}

function unguarded(name: string, { label }: Operation, args: readonly unknown[], when: string): Finding {
  return {
    name: "unguarded",
    place: name,
    expected: `a rejection, also with ${when}`,
    found: `${label}, called with ${formatValue(args)}, was not rejected`,
    remedy: "Check each argument by itself, at each call.",
  };
}
