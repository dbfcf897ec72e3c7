import type { Call, Layer, Next, Use } from "../forward/call.ts";
import type { Member } from "../surface/member.ts";
import { isOverLater, type Outcome, whenOver } from "./outcome.ts";
import { type Report, reportOnce } from "./report.ts";

/**
 * What a layer does. Each hook is asked once for each member when a stack is planned, and gives back what then
 * runs in every call. To give back `next` itself is to stay off the member.
 */
export interface Behaviour {
  /**
   * Watches calls and constructions. The function that it gives back is called before the call, and may itself give
   * back one that is told the outcome. What a watcher throws is reported once and does not reach the client.
   */
  readonly watch?: (member: Member) => (call: Call) => Watch | undefined;
  /** Takes a call into its own hands: changes arguments or result, refuses, or answers by itself. */
  readonly call?: (next: Next, member: Member) => Next;
  /** The same for reading a property or an accessor. */
  readonly read?: (next: Next, member: Member) => Next;
  /** The same for writing one; the new value is the call's only argument. */
  readonly write?: (next: Next, member: Member) => Next;
  /** The same for constructing objects of a decorated class. */
  readonly construct?: (next: Next, member: Member) => Next;
  /** Answers `false` where a member is not to be listed. Asked under sealed, deep and open forwarding. */
  readonly list?: (next: Next, member: Member) => Next;
}

/** What a watcher does for one call: is told how it ended, and may have it run within something of its own. */
export type Watch = ((outcome: Outcome) => void) | Watching;

export interface Watching {
  /** Runs the call, for example with a context of its own; has to run it once, and to give back what it gives. */
  readonly around: (run: () => unknown) => unknown;
  readonly ended: (outcome: Outcome) => void;
}

/** Options that every layer takes. */
export interface LayerOptions<in Target> {
  /** The members that the layer is on: by name, or those that a function says. All of them, unless given. */
  readonly only?: Only<Target>;
}

export type Only<Target> = readonly (keyof Target)[] | ((member: Member) => boolean);

/** What is to be known of a layer so that a stack of layers can be simplified and explained. */
export type Traits = Pick<
  Layer,
  "idempotent" | "selfInverse" | "mayAnswer" | "meetsEveryCall" | "forwarding"
>;

/**
 * Makes a layer: a name, what it does, and the members it is on.
 *
 * @example
 * import { decorate, layer } from "sleeve";
 *
 * const swapSides = layer("swapSides", {
 *   call: (next) => (call) =>
 *     next({ ...call, args: call.args.map((side) => (side === "port" ? "starboard" : "port")) }),
 * }, { selfInverse: true });
 * const helm = { turn: (side: "port" | "starboard") => `hard to ${side}` };
 * decorate(helm, swapSides).turn("port"); // "hard to starboard"
 * decorate(decorate(helm, swapSides), swapSides) === helm; // true
 */
export function layer<Target = unknown>(
  name: string,
  behaviour: Behaviour,
  options: LayerOptions<Target> & Traits = {},
): Layer<Target> {
  const { only, ...traits } = options;
  const isOn = chooser(only);
  const report = reportOnce(name);
  const { watch } = behaviour;
  const around = (next: Next, member: Member, use: Use): Next => {
    if (!isOn(member)) return next;
    const inner = behaviour[use]?.(next, member) ?? next;
    return watch && (use === "call" || use === "construct") ? watching(inner, watch(member), report) : inner;
  };
  return Object.freeze({ ...traits, name, only: typeof only === "object" ? only : undefined, around });
}

/** Whether a layer is on a member. */
export function chooser<Target>(only: Only<Target> | undefined): (member: Member) => boolean {
  if (!only) return () => true;
  if (typeof only === "function") return only;
  const chosen: ReadonlySet<unknown> = new Set(only);
  return ({ key }) => chosen.has(key);
}

function watching(next: Next, watcher: (call: Call) => Watch | undefined, report: Report): Next {
  return (call) => {
    let watch: Watch | undefined;
    try {
      watch = watcher(call);
    } catch (error) {
      report(error);
    }
    if (watch === undefined) return next(call);
    let value: unknown;
    try {
      value = typeof watch === "function" ? next(call) : watch.around(() => next(call));
    } catch (error) {
      tell(watch, { status: "threw", error }, report);
      throw error;
    }
    if (typeof value === "object" && value !== null) tellOfObject(value, watch, report);
    else tell(watch, { status: "returned", value }, report);
    return value;
  };
}

function tellOfObject(value: object, watch: Watch, report: Report): void {
  if (isOverLater(value)) whenOver(value, (outcome) => tell(watch, outcome, report));
  else tell(watch, { status: "returned", value }, report);
}

// Bound by `const`, so that engines can take it for the constant that it is.
const tell = (watch: Watch, outcome: Outcome, report: Report): void => {
  try {
    if (typeof watch === "function") watch(outcome);
    else watch.ended(outcome);
  } catch (error) {
    report(error);
  }
};
