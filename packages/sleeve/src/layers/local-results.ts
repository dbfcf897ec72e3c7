import type { Clock } from "./clock.ts";
import { isOverLater } from "./outcome.ts";

export interface LocalOptions {
  readonly size: number;
  readonly milliseconds: number;
  readonly keepsErrors: boolean;
  readonly clock: Clock;
}

interface Kept {
  readonly result: { readonly value: unknown } | { readonly error: unknown };
  readonly until: number;
}

/** Results of this process, for each owner as long as it lives. */
export class LocalResults {
  readonly #options: LocalOptions;
  #owners = new WeakMap<object, Map<string, Kept>>();

  constructor(options: LocalOptions) {
    this.#options = options;
  }

  get(owner: object, name: string, compute: () => unknown): unknown {
    const results = this.#of(owner);
    const { clock, keepsErrors } = this.#options;
    const kept = results.get(name);
    if (kept && clock.now() < kept.until) {
      // Put last, so that the first is always the one that was not asked for longest.
      results.delete(name);
      results.set(name, kept);
      if ("error" in kept.result) throw kept.result.error;
      return kept.result.value;
    }
    let value: unknown;
    try {
      value = compute();
    } catch (error) {
      if (keepsErrors) this.#keep(owner, results, name, { error });
      throw error;
    }
    if (typeof value === "object" && value !== null && isOverLater(value)) {
      if (!(value instanceof Promise)) return value;
      const kept = this.#keep(owner, results, name, { value });
      // A promise that failed is dropped, unless another result has taken its place by then.
      value.then(undefined, () => {
        if (!keepsErrors && results.get(name) === kept) results.delete(name);
      });
      return value;
    }
    this.#keep(owner, results, name, { value });
    return value;
  }

  clear(owner: object): void {
    this.#owners.delete(owner);
  }

  #of(owner: object): Map<string, Kept> {
    const found = this.#owners.get(owner) ?? new Map<string, Kept>();
    this.#owners.set(owner, found);
    return found;
  }

  #keep(owner: object, results: Map<string, Kept>, name: string, result: Kept["result"]): Kept | undefined {
    // Results were dropped while this one was computed, so it may be of before the change.
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
