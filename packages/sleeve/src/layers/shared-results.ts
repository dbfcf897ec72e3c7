import { isOfThisProcess } from "./arguments-key.ts";
import { type Clock, pause } from "./clock.ts";
import type { Report } from "./report.ts";

/**
 * Where results are kept for several processes, as JSON texts. What is kept under a key never changes until it
 * expires or is deleted, so there is no need to write over anything. On Redis, `add` is `SET key text PX ms NX`.
 */
export interface Store {
  /** Gives the text kept under a key; `undefined` or `null` where there is none, or it has expired. */
  get(key: string): Promise<string | undefined | null>;
  /** Keeps a text under a key for so many milliseconds, unless there is one already; answers whether it did. */
  add(key: string, text: string, milliseconds: number): Promise<boolean>;
  delete(key: string): Promise<unknown>;
}

export interface SharedResultsOptions {
  readonly store: Store;
  readonly name: string | ((owner: object) => string);
  readonly milliseconds: number;
  readonly patience: number;
  readonly claim: number;
  readonly clock: Clock;
  readonly report: Report;
}

/**
 * Results in a store that processes share. One of them computes what is missing, while the others wait for its
 * result. Where the store fails, it is passed by.
 */
export class SharedResults {
  readonly #options: SharedResultsOptions;
  readonly #flights = new Map<string, Promise<unknown>>();
  readonly #known = new Set<string>();
  #cleared = 0;

  constructor(options: SharedResultsOptions) {
    this.#options = options;
  }

  get(owner: object, call: string, compute: () => unknown): unknown {
    if (isOfThisProcess(call)) return compute();
    const { name } = this.#options;
    const key = `${typeof name === "string" ? name : name(owner)}:${call}`;
    const found = this.#flights.get(key);
    if (found) return found;
    const flight = this.#fetch(key, compute).finally(() => {
      if (this.#flights.get(key) === flight) this.#flights.delete(key);
    });
    this.#flights.set(key, flight);
    return flight;
  }

  /** Deletes the results that this process knows of. */
  clear(): void {
    this.#cleared += 1;
    this.#flights.clear();
    for (const key of this.#known) void this.#ask(() => this.#options.store.delete(key));
    this.#known.clear();
  }

  async #fetch(key: string, compute: () => unknown): Promise<unknown> {
    const { store, claim, clock } = this.#options;
    const cleared = this.#cleared;
    this.#know(key);
    for (;;) {
      const answer = await this.#ask(() => store.get(key));
      if (answer === FAILED) return compute();
      if (typeof answer === "string") return valueIn(answer);
      const isOurs = await this.#ask(() => store.add(`${key}:claim`, "claimed", claim));
      if (isOurs === FAILED) return compute();
      if (isOurs) return this.#computeOnce(key, compute, cleared);
      await pause(clock, CLAIM_LOOK);
    }
  }

  /** Computes what this process has claimed, unless another one did so just before the claim. */
  async #computeOnce(key: string, compute: () => unknown, cleared: number): Promise<unknown> {
    const { store, milliseconds } = this.#options;
    try {
      const answer = await this.#ask(() => store.get(key));
      if (typeof answer === "string") return valueIn(answer);
      const value = await compute();
      if (cleared === this.#cleared)
        await this.#ask(async () => store.add(key, JSON.stringify({ value }), milliseconds));
      return value;
    } finally {
      void this.#ask(() => store.delete(`${key}:claim`));
    }
  }

  /** Asks the store, and passes it by where it fails or does not answer in time. */
  #ask<Answer>(question: () => Promise<Answer>): Promise<Answer | typeof FAILED> {
    const { clock, patience, report } = this.#options;
    return new Promise((resolve) => {
      const passBy = (error: unknown) => {
        report(error);
        resolve(FAILED);
      };
      const callOff = clock.after(patience, () =>
        passBy(new Error(`the store did not answer within ${patience} ms`)),
      );
      Promise.resolve().then(question).then(resolve, passBy).finally(callOff);
    });
  }

  #know(key: string): void {
    const [oldest] = this.#known;
    if (this.#known.size >= KEYS_KNOWN && oldest !== undefined) this.#known.delete(oldest);
    this.#known.add(key);
  }
}

const KEYS_KNOWN = 10_000;
/** How often to look whether the process that claimed a result has it, in milliseconds. */
const CLAIM_LOOK = 20;
const FAILED = Symbol("failed");

function valueIn(text: string): unknown {
  return (JSON.parse(text) as { readonly value: unknown }).value;
}
