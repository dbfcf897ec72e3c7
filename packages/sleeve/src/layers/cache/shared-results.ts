import { isProcessLocal } from "../../shared/arguments-key.ts";
import { type Clock, pause } from "../../shared/clock.ts";
import type { Report } from "../../shared/report-once.ts";

/**
 * A store that processes share, with JSON strings as values. An entry never changes until it expires or is
 * deleted, so the store needs no overwrite. In Redis, `add` is `SET key text PX ms NX`.
 */
export interface Store {
  /** Returns the string stored under a key; `undefined` or `null` if there is none or it has expired. */
  get(key: string): Promise<string | undefined | null>;
  /** Stores a string under a key for a number of milliseconds if the key is free. Returns whether it did. */
  add(key: string, text: string, milliseconds: number): Promise<boolean>;
  delete(key: string): Promise<unknown>;
}

export interface SharedResultsOptions {
  readonly store: Store;
  readonly name: string | ((owner: object) => string);
  readonly milliseconds: number;
  readonly storeTimeout: number;
  readonly leaseTime: number;
  readonly clock: Clock;
  readonly report: Report;
}

/**
 * Results in a shared store. One process computes a missing result while the others wait for it. If the store
 * fails, calls bypass it.
 */
export class SharedResults {
  readonly #options: SharedResultsOptions;
  readonly #inFlight = new Map<string, Promise<unknown>>();
  readonly #knownKeys = new Set<string>();
  #cleared = 0;

  constructor(options: SharedResultsOptions) {
    this.#options = options;
  }

  get(owner: object, call: string, compute: () => unknown): unknown {
    if (isProcessLocal(call)) return compute();
    const { name } = this.#options;
    const key = `${typeof name === "string" ? name : name(owner)}:${call}`;
    const found = this.#inFlight.get(key);
    if (found) return found;
    const flight = this.#fetch(key, compute).finally(() => {
      if (this.#inFlight.get(key) === flight) this.#inFlight.delete(key);
    });
    this.#inFlight.set(key, flight);
    return flight;
  }

  /** Deletes the entries that this process has used. */
  clear(): void {
    this.#cleared += 1;
    this.#inFlight.clear();
    for (const key of this.#knownKeys) void this.#queryStore(() => this.#options.store.delete(key));
    this.#knownKeys.clear();
  }

  async #fetch(key: string, compute: () => unknown): Promise<unknown> {
    const { store, leaseTime, clock } = this.#options;
    const cleared = this.#cleared;
    this.#noteKey(key);
    for (;;) {
      const answer = await this.#queryStore(() => store.get(key));
      if (answer === FAILED) return compute();
      if (typeof answer === "string") return valueIn(answer);
      const isOurs = await this.#queryStore(() => store.add(`${key}:lease`, "leased", leaseTime));
      if (isOurs === FAILED) return compute();
      if (isOurs) return this.#computeOnce(key, compute, cleared);
      await pause(clock, LEASE_POLL_INTERVAL);
    }
  }

  /** Computes a result under this process's lease, unless another process stored it just before. */
  async #computeOnce(key: string, compute: () => unknown, cleared: number): Promise<unknown> {
    const { store, milliseconds } = this.#options;
    try {
      const answer = await this.#queryStore(() => store.get(key));
      if (typeof answer === "string") return valueIn(answer);
      const value = await compute();
      if (cleared === this.#cleared)
        await this.#queryStore(async () => store.add(key, JSON.stringify({ value }), milliseconds));
      return value;
    } finally {
      void this.#queryStore(() => store.delete(`${key}:lease`));
    }
  }

  /** Queries the store. Returns `FAILED` if it fails or times out. */
  #queryStore<Answer>(question: () => Promise<Answer>): Promise<Answer | typeof FAILED> {
    const { clock, storeTimeout, report } = this.#options;
    return new Promise((resolve) => {
      const bypass = (error: unknown) => {
        report(error);
        resolve(FAILED);
      };
      const cancel = clock.after(storeTimeout, () =>
        bypass(new Error(`the store did not answer within ${storeTimeout} ms`)),
      );
      Promise.resolve().then(question).then(resolve, bypass).finally(cancel);
    });
  }

  #noteKey(key: string): void {
    const [oldest] = this.#knownKeys;
    if (this.#knownKeys.size >= MAX_KNOWN_KEYS && oldest !== undefined) this.#knownKeys.delete(oldest);
    this.#knownKeys.add(key);
  }
}

const MAX_KNOWN_KEYS = 10_000;
/** Interval of checks for the result of the process that holds the lease, in milliseconds. */
const LEASE_POLL_INTERVAL = 20;
const FAILED = Symbol("failed");

function valueIn(text: string): unknown {
  return (JSON.parse(text) as { readonly value: unknown }).value;
}
