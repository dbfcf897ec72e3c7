import type { Call, Layer, Next } from "../../forward/call.ts";
import { argumentsKey } from "../../shared/arguments-key.ts";
import { type Clock, hostClock } from "../../shared/clock.ts";
import { badOption } from "../../shared/errors.ts";
import { isObject } from "../../shared/intrinsics.ts";
import {
  type Duration,
  describeValue,
  millisecondsOf,
  requireFunction,
  requireOptions,
} from "../../shared/options.ts";
import { reportOnce } from "../../shared/report-once.ts";
import type { Member } from "../../surface/member.ts";
import type { AsyncMembers } from "../async-members.ts";
import type { ResultCacheOptions } from "../core/result-cache.ts";
import { layer, memberMatcher, type Only } from "../layer.ts";
import { LocalResults } from "./local-results.ts";
import { SharedResults, type Store } from "./shared-results.ts";

export interface CachedOptions<Target, Context = unknown>
  extends Pick<ResultCacheOptions, "ttl" | "size" | "errors"> {
  /** Members whose results are cached: their names, or a predicate. Default: all members. */
  readonly only?: Only<Target>;
  /**
   * Computes the cache key of a call. Calls with equal keys share a result. Default: the arguments, by value. With
   * `inContext`, requests share results unless the key distinguishes them by their context.
   */
  readonly key?: (args: readonly unknown[], member: string, context: Context) => string;
  /**
   * Members that change the results of others: calling or writing one of them clears the cache. Default:
   * none.
   */
  readonly clearedBy?: readonly (keyof Target)[];
  readonly clock?: Clock;
}

export interface SharedOptions<Key extends PropertyKey> {
  /** Members whose results are cached. They must return promises. */
  readonly only: readonly Key[] | ((member: Member) => boolean);
  /** The store that processes share. */
  readonly store: Store;
  /**
   * Prefix of the keys in the store. One name represents one subject in all processes. If the layer wraps
   * several subjects, pass a function that returns a name for each wrapper.
   */
  readonly name: string | ((wrapper: never) => string);
  /** Lifetime of an entry, in milliseconds or as `"10m"`. */
  readonly ttl: Duration;
  readonly key?: (args: readonly unknown[], member: string) => string;
  readonly clearedBy?: readonly PropertyKey[];
  /**
   * Timeout of a store request, in milliseconds or as `"500ms"`. After it, the call bypasses the store.
   * Default: 500 ms.
   */
  readonly storeTimeout?: Duration;
  /**
   * How long other processes wait for the one that computes a result, before one of them takes over. Default:
   * 10 s.
   */
  readonly leaseTime?: Duration;
  readonly clock?: Clock;
}

/**
 * Caches results, and answers calls with equal arguments from the cache. Calls made while the first one is in
 * flight share its promise.
 *
 * Arguments are compared by value if they are primitives, dates, or plain objects and arrays of them; other
 * objects are compared by identity. Each wrapper has its own results, which are returned by identity.
 * Generators are not cached.
 *
 * With a `store`, processes share results, for example in Redis: one process computes, the others wait for
 * its result. Members must return promises, and results must survive JSON. `clearedBy` deletes the entries
 * that this process has read or written. If the store fails or times out, calls bypass it; the first failure
 * is reported.
 *
 * Layers inside this one do not see the calls that the cache answers. Put logging and access checks outside
 * it.
 *
 * @example
 * import { cached, decorate } from "sleeve";
 *
 * const sums = { heightAt: (hour: number) => Math.sin(hour / 2), correct: (metres: number) => metres };
 * const kept = decorate(sums, cached({ only: ["heightAt"], ttl: "10m", clearedBy: ["correct"] }));
 * kept.heightAt(4);
 */
export function cached<Target, Context = unknown>(
  options?: CachedOptions<Target, Context>,
): Layer<Target, Context>;
export function cached<const Key extends PropertyKey>(
  options: SharedOptions<Key>,
): Layer<AsyncMembers<NoInfer<Key>>>;
export function cached(
  options: CachedOptions<Record<PropertyKey, unknown>, never> | SharedOptions<PropertyKey> = {},
): Layer<never> {
  requireCachedOptions(options);
  const { only, clearedBy = [], clock = hostClock, key = argumentsKey } = options;
  const isKept = memberMatcher<never>(only);
  const clearing: ReadonlySet<unknown> = new Set(clearedBy);
  const report = reportOnce("cached");
  const results =
    "store" in options
      ? new SharedResults({
          store: options.store,
          name: options.name as string | ((wrapper: object) => string),
          milliseconds: millisecondsOf(options.ttl, "cached: ttl"),
          storeTimeout: millisecondsOf(options.storeTimeout ?? 500, "cached: storeTimeout"),
          leaseTime: millisecondsOf(options.leaseTime ?? "10s", "cached: leaseTime"),
          clock,
          report,
        })
      : new LocalResults(localOptions(options));

  const answering =
    (next: Next, member: Member): Next =>
    (call) => {
      const owner = ownerOf(call, member);
      let name: string;
      try {
        name = `${member.label}(${key(call.args, member.label, call.context as never)})`;
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
      // A result computed before the change may arrive after it, so clear both before and after.
      results.clear(owner);
      const result = next(call);
      if (result instanceof Promise) {
        const clear = () => results.clear(owner);
        result.then(clear, clear);
      } else results.clear(owner);
      return result;
    };
  const hook = (next: Next, member: Member): Next => {
    if (clearing.has(member.key)) return dropping(next, member);
    return isKept(member) ? answering(next, member) : next;
  };
  return layer<never>(
    "cached",
    {
      call: hook,
      write: (next, member) => (clearing.has(member.key) ? dropping(next, member) : next),
    },
    {
      mayShortCircuit: true,
      asyncMembers: "store" in options,
      ...(Array.isArray(only) && { only: [...only, ...clearedBy] as never[] }),
    },
  );
}

function localOptions({ ttl, size, errors, clock }: CachedOptions<never, never>): ResultCacheOptions {
  return {
    ...(ttl !== undefined && { ttl }),
    ...(size !== undefined && { size }),
    ...(errors !== undefined && { errors }),
    ...(clock && { clock }),
  };
}

/**
 * Returns the owner of cached results: the wrapper or, for a decorated function or a detached method, the member.
 */
function ownerOf({ wrapper }: Call, member: Member): object {
  return member.kind === "function" || !isObject(wrapper) ? member : wrapper;
}

const SHARED_OPTIONS = [
  "only",
  "ttl",
  "key",
  "clearedBy",
  "clock",
  "store",
  "name",
  "storeTimeout",
  "leaseTime",
];
const LOCAL_OPTIONS = ["only", "ttl", "key", "clearedBy", "clock", "size", "errors"];

function requireCachedOptions(
  options: CachedOptions<Record<PropertyKey, unknown>, never> | SharedOptions<PropertyKey>,
): void {
  const isShared = typeof options === "object" && options !== null && "store" in options;
  requireOptions(options, "cached", isShared ? SHARED_OPTIONS : LOCAL_OPTIONS, 'cached({ ttl: "10m" })');
  if (options.key !== undefined) requireFunction(options.key, "cached: key");
  if (options.clearedBy !== undefined && !Array.isArray(options.clearedBy))
    throw badOption(`cached: clearedBy is ${describeValue(options.clearedBy)}. Pass a list of member names.`);
  if (!("store" in options)) return;
  for (const method of ["get", "add", "delete"] as const)
    requireFunction(options.store?.[method], `cached: store.${method}`);
  if (typeof options.name !== "string" && typeof options.name !== "function")
    throw badOption(
      `cached: name is ${describeValue(options.name)}. Pass the prefix of the keys in the store.`,
    );
}
