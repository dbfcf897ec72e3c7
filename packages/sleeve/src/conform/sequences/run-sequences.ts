import { runCallsWithWatchdog, WatchdogTimeout } from "../execution/watchdog.ts";
import type { Implementation } from "../types.ts";
import { isPromise } from "../values/schema.ts";
import { isTrusted, type PlayTerms, type SequenceResult, SequenceRun } from "./sequence-run.ts";
import type { Step } from "./steps.ts";

/** Receives the result of a sequence and the object it ran on. Returns whether to continue. */
type OnResult<Target> = (
  made: Target,
  steps: readonly Step[],
  played: SequenceResult,
) => boolean | Promise<boolean>;

/** Maximum number of sequences under one watchdog. */
const MAX_BATCH = 512;

/**
 * Runs sequences, each on an implementation of its own. A watchdog costs more than a whole sequence of calls,
 * so synchronous sequences are batched under one.
 */
export async function runSequences<Target extends object>(
  implementation: Implementation<Target>,
  sequences: readonly (readonly Step[])[],
  terms: PlayTerms,
  take: OnResult<Target>,
): Promise<void> {
  let size = 1;
  for (let at = 0; at < sequences.length; ) {
    const batch = new SequenceBatch(implementation, sequences.slice(at, at + size), terms);
    batch.play();
    if (batch.hasWaited) await batch.finish();
    if (batch.abandoned) await implementation.release?.(batch.abandoned);
    for (const { made: instance, steps, played } of batch.played) {
      const taken = take(instance, steps, played);
      const goesOn = typeof taken === "boolean" ? taken : await taken;
      if (implementation.release) await implementation.release(instance);
      if (!goesOn) return;
    }
    at += batch.played.length;
    size = batch.hasWaited ? 1 : Math.min(batch.played.length * 4, MAX_BATCH);
  }
}

interface ImplementationRun<Target> {
  readonly made: Target;
  readonly steps: readonly Step[];
  readonly played: SequenceRun;
}

class SequenceBatch<Target extends object> {
  readonly played: ImplementationRun<Target>[] = [];
  /** The sequence that was running when the batch was stopped. */
  abandoned: Target | undefined;
  readonly #implementation: Implementation<Target>;
  readonly #sequences: readonly (readonly Step[])[];
  readonly #terms: PlayTerms;
  /** The sequence to await, which is the last. */
  #waited: (() => Promise<void>) | undefined;
  #current: ImplementationRun<Target> | undefined;
  /** Whether the current sequence continues under another watchdog. */
  #isPaused = false;

  constructor(
    implementation: Implementation<Target>,
    sequences: readonly (readonly Step[])[],
    terms: PlayTerms,
  ) {
    this.#implementation = implementation;
    this.#sequences = sequences;
    this.#terms = terms;
  }

  play(): void {
    const isKnown = this.#sequences.every((steps) =>
      steps.every(({ operation }) => isTrusted(operation.label, this.#terms)),
    );
    // An asynchronous sequence comes alone, and would need a watchdog of its own.
    if (this.#sequences.length === 1 && isKnown) this.#playUntilWaiting(() => false);
    else this.#playGuarded();
  }

  get hasWaited(): boolean {
    return this.#waited !== undefined;
  }

  async finish(): Promise<void> {
    await this.#waited?.();
  }

  #playGuarded(): void {
    try {
      do runCallsWithWatchdog((isTimeUp) => this.#playUntilWaiting(isTimeUp), this.#terms.timeout);
      while (this.#isPaused);
    } catch (error) {
      if (!(error instanceof WatchdogTimeout) || !this.#current) throw error;
      this.abandoned = this.#current.made;
      // If the machine stalled rather than the sequence, the sequence ends when it is repeated alone.
      const { steps } = this.#current;
      this.#waited = async () => this.#finishOne(await this.#implementation.create(), steps);
    }
  }

  #playUntilWaiting(isTimeUp: () => boolean): void {
    while (this.#current || this.played.length < this.#sequences.length) {
      if (!this.#current) {
        if (this.played.length > 0 && isTimeUp()) return;
        const steps = this.#sequences[this.played.length] as readonly Step[];
        const instance = this.#implementation.create();
        if (isPromise(instance)) {
          this.#waited = async () => this.#finishOne((await instance) as Target, steps);
          return;
        }
        this.#current = { made: instance, steps, played: new SequenceRun(instance, steps, this.#terms) };
      }
      const current = this.#current;
      const waited = current.played.begin(isTimeUp);
      this.#isPaused = !waited && current.played.isPaused;
      if (this.#isPaused) return;
      if (waited || !current.played.isOver) {
        this.#waited = async () => {
          await waited;
          await current.played.toEnd();
          this.played.push(current);
        };
        return;
      }
      this.played.push(current);
      this.#current = undefined;
    }
  }

  async #finishOne(instance: Target, steps: readonly Step[]): Promise<void> {
    const playing = new SequenceRun(instance, steps, this.#terms);
    await playing.toEnd();
    this.played.push({ made: instance, steps, played: playing });
  }
}
