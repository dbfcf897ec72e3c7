import { argumentsKey } from "../../shared/arguments-key.ts";
import { type Clock, hostClock } from "../../shared/clock.ts";
import { type Duration, millisecondsOf, wholeNumber } from "../../shared/options.ts";
import { isPending } from "../../shared/outcome.ts";
import { type Report, reportOnce } from "../../shared/report-once.ts";

export interface ResultCacheOptions {
  /** Lifetime of an entry, in milliseconds or as `"10m"`. Default: unlimited. */
  readonly ttl?: Duration;
  /** Maximum number of entries per wrapper; the least recently used one is evicted. Default: 1,000. */
  readonly size?: number;
  /** Computes the cache key of a call. Calls with equal keys share a result. Default: the arguments, by value. */
  readonly key?: (args: readonly unknown[], member: string) => string;
  /** Whether errors are cached too. Default: `false`. */
  readonly errors?: boolean;
  readonly clock?: Pick<Clock, "now">;
}

interface CachedResult {
  readonly result: { readonly value: unknown } | { readonly error: unknown };
  readonly until: number;
}

/** The cached results of one wrapper. Calls made while the first one is in flight share its promise. */
export class ResultCache {
  readonly #lifetime: number;
  readonly #size: number;
  readonly #keepsErrors: boolean;
  readonly #clock: Pick<Clock, "now">;
  readonly #key: (args: readonly unknown[], member: string) => string;
  readonly #report: Report = reportOnce("cached");
  #results = new Map<string, CachedResult>();

  /** @throws {SleeveError} `BAD_OPTION` */
  constructor({
    ttl,
    size = 1000,
    key = argumentsKey,
    errors = false,
    clock = hostClock,
  }: ResultCacheOptions) {
    this.#lifetime = ttl === undefined ? Number.POSITIVE_INFINITY : millisecondsOf(ttl, "cached: ttl");
    this.#size = wholeNumber(size, 1, "cached: size");
    this.#keepsErrors = errors;
    this.#clock = clock;
    this.#key = key;
  }

  /** Returns the cached result of a call with these arguments, or computes it. A key that fails is reported once. */
  call<Result>(member: string, args: readonly unknown[], compute: () => Result): Result {
    let name: string;
    try {
      name = `${member}(${this.#key(args, member)})`;
    } catch (error) {
      this.#report(error);
      return compute();
    }
    return this.get(name, compute);
  }

  /** Returns the cached result of a name, or computes it. Generators are not cached, because they can be used only once. */
  get<Result>(name: string, compute: () => Result): Result {
    const results = this.#results;
    const cached = results.get(name);
    if (cached && this.#clock.now() < cached.until) {
      // Reinserted at the end, so that the first entry is always the least recently used.
      results.delete(name);
      results.set(name, cached);
      if ("error" in cached.result) throw cached.result.error;
      return cached.result.value as Result;
    }
    let value: Result;
    try {
      value = compute();
    } catch (error) {
      if (this.#keepsErrors) this.#store(results, name, { error });
      throw error;
    }
    if (typeof value !== "object" || value === null || !isPending(value)) {
      this.#store(results, name, { value });
      return value;
    }
    if (!(value instanceof Promise)) return value;
    const stored = this.#store(results, name, { value });
    // Drops a rejected promise, unless another result has replaced it.
    value.then(undefined, () => {
      if (!this.#keepsErrors && results.get(name) === stored) results.delete(name);
    });
    return value;
  }

  clear(): void {
    this.#results = new Map();
  }

  /** Runs a call that changes the results of others. A result computed before it may arrive after it, so clears twice. */
  clearedBy<Result>(call: () => Result): Result {
    this.clear();
    const result = call();
    const clear = () => this.clear();
    if (result instanceof Promise) result.then(clear, clear);
    else clear();
    return result;
  }

  #store(
    results: Map<string, CachedResult>,
    name: string,
    result: CachedResult["result"],
  ): CachedResult | undefined {
    // The cache was cleared during this computation, so the result may predate the change.
    if (this.#results !== results) return undefined;
    const cached = { result, until: this.#clock.now() + this.#lifetime };
    results.delete(name);
    results.set(name, cached);
    const [oldest] = results.keys();
    if (results.size > this.#size && oldest !== undefined) results.delete(oldest);
    return cached;
  }
}
