import { isProcessLocal } from "../../shared/arguments-key.ts";
import { pause } from "../../shared/cancellation.ts";
import type { Clock } from "../../shared/clock.ts";
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
    const { name, report } = this.#options;
    let key: string;
    try {
      key = `${typeof name === "string" ? name : name(owner)}:${call}`;
    } catch (error) {
      report(error);
      return compute();
    }
    const existing = this.#inFlight.get(key);
    if (existing) return existing;
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
    const start = clock.now();
    for (let refusals = 0; ; ) {
      const answer = await this.#readStore(key);
      if (answer === FAILED) return compute();
      if (answer) return answer.value;
      const isOurs = await this.#queryStore(() => store.add(`${key}:lease`, "leased", leaseTime));
      if (isOurs === FAILED) return compute();
      if (isOurs) return this.#computeOnce(key, compute, cleared);
      const lease = await this.#queryStore(() => store.get(`${key}:lease`));
      if (lease === FAILED) return compute();
      refusals = lease === undefined || lease === null ? refusals + 1 : 0;
      // A lease may end between the two requests, but not every time.
      if (refusals === MAX_REFUSALS || clock.now() - start > 2 * leaseTime) {
        this.#options.report(new Error("the store grants no lease, although none is held"));
        return compute();
      }
      await pause(clock, LEASE_POLL_INTERVAL);
    }
  }

  /** Reads a result. Returns `undefined` if there is none, and `FAILED` if the store fails or has something else. */
  async #readStore(key: string): Promise<{ readonly value: unknown } | undefined | typeof FAILED> {
    const answer = await this.#queryStore(() => this.#options.store.get(key));
    if (answer === FAILED || answer === undefined || answer === null) return answer ?? undefined;
    const result = resultIn(answer);
    if (result) return result;
    this.#options.report(new Error(`the store has something else than a result under ${key}`));
    return FAILED;
  }

  /** Computes a result under this process's lease, unless another process stored it just before. */
  async #computeOnce(key: string, compute: () => unknown, cleared: number): Promise<unknown> {
    const { store, milliseconds } = this.#options;
    try {
      const answer = await this.#readStore(key);
      if (answer !== FAILED && answer) return answer.value;
      const value = await compute();
      if (answer !== FAILED && cleared === this.#cleared)
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

/** Number of times that a lease may be refused although none is held. */
const MAX_REFUSALS = 3;

/** Decodes a result. Returns `undefined` for anything that this layer does not write. */
function resultIn(text: unknown): { readonly value: unknown } | undefined {
  if (typeof text !== "string") return undefined;
  try {
    const result: unknown = JSON.parse(text);
    const isResult =
      typeof result === "object" &&
      result !== null &&
      !Array.isArray(result) &&
      Object.keys(result).every((key) => key === "value");
    // JSON leaves out the value if it is `undefined`.
    return isResult ? { value: (result as { value?: unknown }).value } : undefined;
  } catch {
    return undefined;
  }
}
