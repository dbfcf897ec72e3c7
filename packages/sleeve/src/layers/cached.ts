import type { Call, Layer, Next } from "../forward/call.ts";
import type { Member } from "../surface/member.ts";
import { argumentsKey } from "./arguments-key.ts";
import { type Clock, hostClock } from "./clock.ts";
import { chooser, layer, type Only } from "./layer.ts";
import { LocalResults } from "./local-results.ts";
import { type Duration, millisecondsOf, requireFunction, wholeNumber } from "./options.ts";
import type { Promising } from "./promising.ts";
import { reportOnce } from "./report.ts";
import { SharedResults, type Store } from "./shared-results.ts";

export interface CachedOptions<Target> {
  /** The members whose results are kept: by name, or those that a function says. All of them, unless given. */
  readonly only?: Only<Target>;
  /** How long a result is kept. For good, unless given. */
  readonly for?: Duration;
  /** How many results are kept of one wrapper; the one that was not asked for longest goes first. 1,000, unless given. */
  readonly size?: number;
  /** What tells calls of a member apart. Two calls with the same key have the same result. */
  readonly key?: (args: readonly unknown[], member: string) => string;
  /** Whether errors are kept too. They are not, unless asked for. */
  readonly errors?: boolean;
  /** Members that change what the others answer: when one of them is called or written, all results are dropped. */
  readonly clearedBy?: readonly (keyof Target)[];
  readonly clock?: Clock;
}

export interface SharedOptions<Key extends PropertyKey> {
  /** The members whose results are kept; they have to give promises. */
  readonly only: readonly Key[] | ((member: Member) => boolean);
  /** Where results are kept for all processes. */
  readonly store: Store;
  /**
   * What keys in the store begin with. One name stands for one subject, in all processes; where the layer is put around
   * several, a function tells them apart by their wrappers.
   */
  readonly name: string | ((wrapper: never) => string);
  /** How long a result is kept. */
  readonly for: Duration;
  readonly key?: (args: readonly unknown[], member: string) => string;
  readonly clearedBy?: readonly PropertyKey[];
  /** How long the store may take to answer before it is passed by. 500 ms, unless given. */
  readonly patience?: Duration;
  /** How long other processes wait for the one that computes, before one of them takes over. 10 s, unless given. */
  readonly claim?: Duration;
  readonly clock?: Clock;
}

/**
 * Keeps results, and answers calls with the same arguments from them. Calls that come while the first is under way
 * wait for the same promise.
 *
 * Arguments are told apart by their values: primitives, dates, and plain objects and arrays of them; other objects
 * by their identity. Results are kept for each wrapper, and are handed out as they are, by identity. Generators
 * are not kept.
 *
 * With a `store`, results are shared between processes, for instance on Redis: one computes, the others wait for its
 * result. That takes members that give promises, and results that survive JSON. `clearedBy` drops the results that this
 * process has met. Where the store fails or takes too long, it is passed by, and that is reported once.
 *
 * It hides the calls that it answers from layers inside it: put logging and access checks before it.
 *
 * @example
 * import { cached, decorate } from "sleeve";
 *
 * const sums = { heightAt: (hour: number) => Math.sin(hour / 2), correct: (metres: number) => metres };
 * const kept = decorate(sums, cached({ only: ["heightAt"], for: "10m", clearedBy: ["correct"] }));
 * kept.heightAt(4);
 */
export function cached<Target>(options?: CachedOptions<Target>): Layer<Target>;
export function cached<const Key extends PropertyKey>(
  options: SharedOptions<Key>,
): Layer<Promising<NoInfer<Key>>>;
export function cached(
  options: CachedOptions<Record<PropertyKey, unknown>> | SharedOptions<PropertyKey> = {},
): Layer<never> {
  const { only, clearedBy = [], clock = hostClock, key = argumentsKey } = options;
  const milliseconds =
    options.for === undefined ? Number.POSITIVE_INFINITY : millisecondsOf(options.for, "cached: for");
  const isKept = chooser<never>(only);
  const clearing: ReadonlySet<unknown> = new Set(clearedBy);
  const report = reportOnce("cached");
  if ("store" in options) {
    for (const method of ["get", "add", "delete"] as const)
      requireFunction(options.store[method], `cached: store.${method}`);
  }
  const results =
    "store" in options
      ? new SharedResults({
          store: options.store,
          name: options.name as string | ((wrapper: object) => string),
          milliseconds,
          patience: millisecondsOf(options.patience ?? 500, "cached: patience"),
          claim: millisecondsOf(options.claim ?? "10s", "cached: claim"),
          clock,
          report,
        })
      : new LocalResults({
          size: wholeNumber(options.size ?? 1000, 1, "cached: size"),
          milliseconds,
          keepsErrors: options.errors ?? false,
          clock,
        });

  const answering =
    (next: Next, member: Member): Next =>
    (call) => {
      const owner = ownerOf(call, member);
      let name: string;
      try {
        name = `${member.label}(${key(call.args, member.label)})`;
      } catch (error) {
        report(error);
        return next(call);
      }
      return results.get(owner, name, () => next(call));
    };
  const dropping =
    (next: Next, member: Member): Next =>
    (call) => {
      const owner = ownerOf(call, member);
      // What began before the change may end after it, so results are dropped on both sides of it.
      results.clear(owner);
      const result = next(call);
      if (result instanceof Promise) {
        const clear = () => results.clear(owner);
        result.then(clear, clear);
      } else results.clear(owner);
      return result;
    };
  const hook = (next: Next, member: Member): Next =>
    clearing.has(member.key) ? dropping(next, member) : isKept(member) ? answering(next, member) : next;
  return layer<never>(
    "cached",
    {
      call: hook,
      write: (next, member) => (clearing.has(member.key) ? dropping(next, member) : next),
    },
    { mayAnswer: true, ...(Array.isArray(only) && { only: [...only, ...clearedBy] as never[] }) },
  );
}

/** Whose results these are: the wrapper's; or, of a function, which has none, the function's. */
function ownerOf(call: Call, member: Member): object {
  return member.kind === "function" ? member : call.wrapper;
}
