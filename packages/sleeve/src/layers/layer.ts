import type { Call, Layer, Next } from "../forward/call.ts";
import { createWatchedCall } from "../forward/closed/forwarders.ts";
import type { WatchUses } from "../forward/closed/templates.ts";
import { badOption } from "../shared/errors.ts";
import { PrivateSet } from "../shared/intrinsics.ts";
import { requireFunction, requireOnly, requireOptions } from "../shared/options.ts";
import { type Outcome, observe, succeeded } from "../shared/outcome.ts";
import { type Report, reportOnce } from "../shared/report-once.ts";
import { handleRejection } from "../shared/thenable.ts";
import type { Use } from "../shared/use.ts";
import type { Member } from "../surface/member.ts";
import type { Watch, WatchHooks } from "./core/watch.ts";
import { conflictBetween } from "./order.ts";

/**
 * The hooks of a layer. Each hook runs once for each member when a stack is planned, and returns the function
 * that runs in every call. A hook that returns `next` leaves the member alone.
 */
export interface Behaviour<Context = unknown> {
  /**
   * Watches calls and constructions. The returned function runs before each call, and may return a function
   * that receives the outcome. An error thrown by a watcher is reported once and never reaches the caller.
   */
  readonly watch?: (member: Member) => (call: Call<Context>) => Watch | undefined;
  /** Handles a call: may change arguments or the result, reject the call, or answer it. */
  readonly call?: (next: Next<Context>, member: Member, isPrivate?: boolean) => Next<Context>;
  /** Handles a read of a property or an accessor. */
  readonly read?: (next: Next<Context>, member: Member) => Next<Context>;
  /** Handles a write; the new value is the only argument of the call. */
  readonly write?: (next: Next<Context>, member: Member) => Next<Context>;
  /** Handles the construction of an instance of a decorated class. */
  readonly construct?: (next: Next<Context>, member: Member) => Next<Context>;
  /** Returns `false` for a member that must not be listed. Called under sealed, deep and open forwarding. */
  readonly list?: (next: Next<Context>, member: Member) => Next<Context>;
}

/** Options that every layer accepts. */
export interface LayerOptions<in Target> {
  /** Members that the layer applies to: their names, or a predicate. Default: all members. */
  readonly only?: Only<Target>;
}

export type Only<Target> = readonly (keyof Target)[] | ((member: Member) => boolean);

/** Properties of a layer that are needed to normalize and explain stacks, and to fail as members do. */
export type Traits = Pick<
  Layer,
  | "idempotent"
  | "selfInverse"
  | "mayShortCircuit"
  | "observesAll"
  | "asyncMembers"
  | "hides"
  | "needsContext"
  | "rejects"
  | "repeats"
  | "limits"
>;

/**
 * Creates a layer from a name, its hooks, and the members it applies to.
 *
 * @example
 * import { decorate, layer, withArguments } from "sleeve";
 *
 * const swapSides = layer("swapSides", {
 *   call: (next) => (call) =>
 *     next(withArguments(call, call.args.map((side) => (side === "port" ? "starboard" : "port")))),
 * }, { selfInverse: true });
 * const helm = { turn: (side: "port" | "starboard") => `hard to ${side}` };
 * decorate(helm, swapSides).turn("port"); // "hard to starboard"
 * decorate(decorate(helm, swapSides), swapSides) === helm; // true
 */
export function layer<Target = unknown, Context = unknown>(
  name: string,
  hooks: Behaviour<Context>,
  options: LayerOptions<Target> & Traits & Pick<Layer, "forwarding" | "engine"> = {},
): Layer<Target, Context> {
  // A layer that needs a context is only used where there is one, which its type ensures.
  const behaviour = hooks as Behaviour;
  requireHooks(name, behaviour);
  const { only, ...traits } = options;
  requireOnly(only, name);
  if (traits.forwarding && !traits.engine)
    throw badOption(`layer "${name}": forwarding cannot be chosen by name. Use stack(open(), yourLayer).`);
  const isOn = memberMatcher(only);
  const uses = watchUses(reportOnce(name));
  const { watch } = behaviour;
  const around = (next: Next, member: Member, use: Use, isPrivate?: boolean): Next => {
    if (!isOn(member)) return next;
    const inner = behaviour[use]?.(next, member, isPrivate) ?? next;
    return watch && (use === "call" || use === "construct")
      ? createWatchedCall(inner, watch(member), uses)
      : inner;
  };
  const newLayer: Layer<Target, Context> = {
    ...traits,
    name,
    only: typeof only === "object" ? only : undefined,
    mayFail: behaviour.call !== undefined,
    ignoresReads: behaviour.read === undefined && behaviour.list === undefined,
    watches: watch !== undefined,
    conflictWith: (inner) => conflictBetween(newLayer as Layer<never>, inner),
    around,
  };
  return Object.freeze(newLayer);
}

const HOOKS = ["watch", "call", "read", "write", "construct", "list"];

function requireHooks(name: string, behaviour: Behaviour): void {
  requireOptions(behaviour, `layer "${name}"`, HOOKS, "{ call: (next) => (call) => next(call) }");
  for (const hook of HOOKS) {
    const value: unknown = behaviour[hook as keyof Behaviour];
    if (value !== undefined) requireFunction(value, `layer "${name}": ${hook}`);
  }
}

/** Returns a predicate for the members that a layer applies to. */
export function memberMatcher<Target>(only: Only<Target> | undefined): (member: Member) => boolean {
  if (!only) return () => true;
  if (typeof only === "function") return only;
  const chosen = new PrivateSet<unknown>();
  for (const key of only) chosen.add(key);
  return ({ key }) => chosen.has(key);
}

/** What watched calls of a layer do with the watches of one layer. An error in a watch never makes a call fail. */
function watchUses(report: Report): WatchUses {
  // The values are what watchers of the layer returned.
  return {
    report,
    isAround: (watch) =>
      typeof watch !== "function" && !(typeof watch === "object" && watch !== null && "failed" in watch),
    around: (watch, next, call) => watchAround(watch as WatchHooks, () => next(call), report),
    threw: (watch, error) => notify(watch as Watch, { status: "threw", error }, report),
    settles: (watch, value) => watchValue(value, watch as Watch, report),
    answered: (answer) => void handleRejection(answer, report),
  };
}

function watchAround(watch: WatchHooks, run: () => unknown, report: Report): unknown {
  if (typeof watch?.ended !== "function") {
    handleRejection(watch, report);
    return run();
  }
  let value: unknown;
  try {
    value = runAround(watch, run, report);
  } catch (error) {
    notify(watch, { status: "threw", error }, report);
    throw error;
  }
  watchValue(value, watch, report);
  return value;
}

/** Runs a call within a watcher's `around`. If that fails, or does not run the call, the call is not affected. */
function runAround({ around }: WatchHooks, run: () => unknown, report: Report): unknown {
  let outcome: { readonly value: unknown } | { readonly error: unknown } | undefined;
  const once = () => {
    if (!outcome) {
      try {
        outcome = { value: run() };
      } catch (error) {
        outcome = { error };
      }
    }
    if ("error" in outcome) throw outcome.error;
    return outcome.value;
  };
  try {
    around(once);
  } catch (error) {
    if (!outcome || !("error" in outcome) || outcome.error !== error) report(error);
  }
  return once();
}

function watchValue(value: unknown, watch: Watch, report: Report): void {
  observe(value, (outcome) => notify(watch, outcome, report));
}

// A `const`, so that engines can treat it as a constant.
const notify = (watch: Watch, outcome: Outcome, report: Report): void => {
  try {
    let answer: unknown;
    if (typeof watch === "function") answer = watch(outcome);
    else if (!("failed" in watch)) answer = watch.ended(outcome);
    else if (!succeeded(outcome)) answer = watch.failed(outcome);
    if (typeof answer === "object") handleRejection(answer, report);
  } catch (error) {
    report(error);
  }
};
