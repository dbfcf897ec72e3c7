import type { Clock } from "../../shared/clock.ts";
import { isPending } from "../../shared/outcome.ts";

export interface LocalOptions {
  readonly size: number;
  readonly milliseconds: number;
  readonly keepsErrors: boolean;
  readonly clock: Clock;
}

interface CachedResult {
  readonly result: { readonly value: unknown } | { readonly error: unknown };
  readonly until: number;
}

/** Results cached in this process, for each owner as long as the owner lives. */
export class LocalResults {
  readonly #options: LocalOptions;
  #owners = new WeakMap<object, Map<string, CachedResult>>();

  constructor(options: LocalOptions) {
    this.#options = options;
  }

  get(owner: object, name: string, compute: () => unknown): unknown {
    const results = this.#resultsOf(owner);
    const { clock, keepsErrors } = this.#options;
    const kept = results.get(name);
    if (kept && clock.now() < kept.until) {
      // Reinserted at the end, so that the first entry is always the least recently used.
      results.delete(name);
      results.set(name, kept);
      if ("error" in kept.result) throw kept.result.error;
      return kept.result.value;
    }
    let value: unknown;
    try {
      value = compute();
    } catch (error) {
      if (keepsErrors) this.#store(owner, results, name, { error });
      throw error;
    }
    if (typeof value === "object" && value !== null && isPending(value)) {
      if (!(value instanceof Promise)) return value;
      const kept = this.#store(owner, results, name, { value });
      // Drops a rejected promise, unless another result has replaced it.
      value.then(undefined, () => {
        if (!keepsErrors && results.get(name) === kept) results.delete(name);
      });
      return value;
    }
    this.#store(owner, results, name, { value });
    return value;
  }

  clear(owner: object): void {
    this.#owners.delete(owner);
  }

  #resultsOf(owner: object): Map<string, CachedResult> {
    const found = this.#owners.get(owner) ?? new Map<string, CachedResult>();
    this.#owners.set(owner, found);
    return found;
  }

  #store(
    owner: object,
    results: Map<string, CachedResult>,
    name: string,
    result: CachedResult["result"],
  ): CachedResult | undefined {
    // The cache was cleared during this computation, so the result may predate the change.
    if (this.#owners.get(owner) !== results) return undefined;
    const { milliseconds, clock, size } = this.#options;
    const kept = { result, until: clock.now() + milliseconds };
    results.delete(name);
    results.set(name, kept);
    const [oldest] = results.keys();
    if (results.size > size && oldest !== undefined) results.delete(oldest);
    return kept;
  }
}
