import { reportOnce } from "./report-once.ts";

export interface ResultCacheOptions {
  /** Lifetime of a result in milliseconds. Default: unlimited. */
  readonly ttl?: number;
  /** Maximum number of results; the least recently used one is dropped. Default: 1,000. */
  readonly size?: number;
  /** Computes the key of a call. Calls with equal keys share a result. */
  readonly key?: (args: readonly unknown[], member: string) => string;
  /** Whether errors are cached too. Default: `false`. */
  readonly errors?: boolean;
  /** Clock in milliseconds. Default: `performance`, else `Date`. */
  readonly clock?: { now(): number };
}

interface KeptResult {
  readonly result: { readonly value: unknown } | { readonly error: unknown };
  readonly until: number;
}

/** Results of calls. Calls made while the first one is in flight share its promise. */
export class ResultCache {
  readonly #ttl: number;
  readonly #size: number;
  readonly #keepsErrors: boolean;
  readonly #clock: { now(): number };
  readonly #key: (args: readonly never[], member: string) => string;
  readonly #report = reportOnce("cached");
  #results = new Map<string, KeptResult>();

  constructor(options: ResultCacheOptions, keyOf: (args: readonly never[], member: string) => string) {
    this.#ttl = options.ttl ?? Number.POSITIVE_INFINITY;
    this.#size = options.size ?? 1000;
    this.#keepsErrors = options.errors ?? false;
    const { performance } = globalThis as { readonly performance?: { now(): number } };
    this.#clock = options.clock ?? performance ?? Date;
    this.#key = options.key ?? keyOf;
  }

  get<Result>(member: string, args: readonly unknown[], compute: () => Result): Result {
    let name: string;
    try {
      name = `${member}(${this.#key(args as readonly never[], member)})`;
    } catch (error) {
      this.#report(error);
      return compute();
    }
    const results = this.#results;
    const kept = results.get(name);
    if (kept && this.#clock.now() < kept.until) {
      // Put at the end, so that the first result is the least recently used one.
      results.delete(name);
      results.set(name, kept);
      if ("error" in kept.result) throw kept.result.error;
      return kept.result.value as Result;
    }
    let value: Result;
    try {
      value = compute();
    } catch (error) {
      if (this.#keepsErrors) this.#keep(results, name, { error });
      throw error;
    }
    // A generator can be used only once.
    if (/Generator\]$/.test(Object.prototype.toString.call(value))) return value;
    const stored = this.#keep(results, name, { value });
    if (value instanceof Promise)
      value.then(undefined, () => {
        if (!this.#keepsErrors && results.get(name) === stored) results.delete(name);
      });
    return value;
  }

  clear(): void {
    this.#results = new Map();
  }

  /** Runs a call that changes the results of others. What was computed before it may arrive after it. */
  clearedBy<Result>(call: () => Result): Result {
    this.clear();
    const result = call();
    const clear = () => this.clear();
    if (result instanceof Promise) result.then(clear, clear);
    else clear();
    return result;
  }

  #keep(
    results: Map<string, KeptResult>,
    name: string,
    result: KeptResult["result"],
  ): KeptResult | undefined {
    // The results were cleared during this computation.
    if (this.#results !== results) return undefined;
    const kept = { result, until: this.#clock.now() + this.#ttl };
    results.delete(name);
    results.set(name, kept);
    const [oldest] = results.keys();
    if (results.size > this.#size && oldest !== undefined) results.delete(oldest);
    return kept;
  }
}
