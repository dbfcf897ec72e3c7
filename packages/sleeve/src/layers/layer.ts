import { SleeveError } from "../errors.ts";
import type { Call, Layer, Next, Use } from "../forward/call.ts";
import { host } from "../host.ts";
import type { Member } from "../surface/member.ts";
import type { Outcome } from "./outcome.ts";

/**
 * What a layer does. Each hook is asked once for each member when a stack is planned, and gives back what then
 * runs in every call.
 */
export interface Behaviour {
  /**
   * Watches calls. The function that it gives back is called before the call, and may itself give back one that
   * is told the outcome. What a watcher throws is reported once and does not reach the client.
   */
  readonly watch?: (member: Member) => (call: Call) => ((outcome: Outcome) => void) | undefined;
  /** Takes a call into its own hands: changes arguments or result, refuses, or answers by itself. */
  readonly call?: (next: Next, member: Member) => Next;
  /** The same for reading a property or an accessor. */
  readonly read?: (next: Next, member: Member) => Next;
  /** The same for writing one; the new value is the call's only argument. */
  readonly write?: (next: Next, member: Member) => Next;
}

/** Options that every layer takes. */
export interface LayerOptions<Target> {
  /** The members that the layer is on. All of them, unless given. */
  readonly only?: readonly (keyof Target)[];
}

/**
 * Makes a layer: a name, what it does, and the members it is on.
 *
 * @example
 * import { decorate, layer } from "sleeve";
 *
 * const swapSides = layer("swapSides", {
 *   call: (next) => (call) =>
 *     next({ ...call, args: call.args.map((side) => (side === "port" ? "starboard" : "port")) }),
 * });
 * const helm = { turn: (side: "port" | "starboard") => `hard to ${side}` };
 * decorate(helm, swapSides).turn("port"); // "hard to starboard"
 */
export function layer<Target = unknown>(
  name: string,
  behaviour: Behaviour,
  { only }: LayerOptions<Target> = {},
): Layer<Target> {
  const chosen: ReadonlySet<unknown> | undefined = only && new Set(only);
  const report = reportOnce(name);
  const hooks = {
    call: (next: Next, member: Member) => {
      const inner = behaviour.call?.(next, member) ?? next;
      return behaviour.watch ? watching(inner, behaviour.watch(member), report) : inner;
    },
    read: (next: Next, member: Member) => behaviour.read?.(next, member) ?? next,
    write: (next: Next, member: Member) => behaviour.write?.(next, member) ?? next,
  } satisfies Record<Use, unknown>;
  return {
    name,
    only,
    around: (next, member, use) => (chosen && !chosen.has(member.key) ? next : hooks[use](next, member)),
  };
}

type Watcher = (call: Call) => ((outcome: Outcome) => void) | undefined;
type Report = (error: unknown) => void;

function watching(next: Next, watcher: Watcher, report: Report): Next {
  return (call) => {
    let told: ReturnType<Watcher>;
    try {
      told = watcher(call);
    } catch (error) {
      report(error);
    }
    if (!told) return next(call);
    let value: unknown;
    try {
      value = next(call);
    } catch (error) {
      tell(told, { status: "threw", error }, report);
      throw error;
    }
    if (typeof value === "object" && value instanceof Promise) tellWhenSettled(value, told, report);
    else tell(told, { status: "returned", value }, report);
    return value;
  };
}

/**
 * Hands on the promise itself, for whom it is a key or an identity. That marks it as handled: a rejection that
 * nobody else looks at is seen by the layer alone. Only native promises are waited for, since asking another
 * thenable for its outcome may start its work.
 */
function tellWhenSettled(promise: Promise<unknown>, told: (outcome: Outcome) => void, report: Report): void {
  Promise.prototype.then.call(
    promise,
    (value) => tell(told, { status: "resolved", value }, report),
    (error) => tell(told, { status: "rejected", error }, report),
  );
}

function tell(told: (outcome: Outcome) => void, outcome: Outcome, report: Report): void {
  try {
    told(outcome);
  } catch (error) {
    report(error);
  }
}

/** Tells of a layer's own failure once: as a process warning in Node.js, as a reported error in the browser. */
function reportOnce(name: string): Report {
  let isReported = false;
  return (cause) => {
    if (isReported) return;
    isReported = true;
    const reason = cause instanceof Error ? cause.message : String(cause);
    const message = `The layer "${name}" failed in its own work: ${reason}. The calls it watches go on; further failures of it are not reported.`;
    const failure = new SleeveError("LAYER_FAILED", message, { cause });
    if (host.process?.emitWarning) host.process.emitWarning(failure);
    else host.reportError?.(failure);
  };
}
