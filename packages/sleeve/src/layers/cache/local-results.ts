import { ResultCache, type ResultCacheOptions } from "../core/result-cache.ts";

/** Results cached in this process, for each owner as long as the owner lives. */
export class LocalResults {
  readonly #options: ResultCacheOptions;
  readonly #caches = new WeakMap<object, ResultCache>();

  /** @throws {SleeveError} `BAD_OPTION` */
  constructor(options: ResultCacheOptions) {
    // Wrong options are reported now, and not in the first call.
    new ResultCache(options);
    this.#options = options;
  }

  get(owner: object, name: string, compute: () => unknown): unknown {
    return this.#cacheOf(owner).get(name, compute);
  }

  clear(owner: object): void {
    this.#caches.get(owner)?.clear();
  }

  #cacheOf(owner: object): ResultCache {
    let cache = this.#caches.get(owner);
    if (!cache) {
      cache = new ResultCache(this.#options);
      this.#caches.set(owner, cache);
    }
    return cache;
  }
}
