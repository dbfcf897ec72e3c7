import { guardedCalls, Hung } from "./guarded.ts";
import type { Implementation } from "./implementation.ts";
import { isTrusted, type Played, Playing, type PlayTerms } from "./play.ts";
import { isPromise } from "./schema.ts";
import type { Step } from "./steps.ts";

/** Takes a sequence that was played, on what; gives whether to go on. */
type Take<Target> = (made: Target, steps: readonly Step[], played: Played) => boolean | Promise<boolean>;

/** So many sequences at most are played behind one guard. */
const MOST = 512;

/**
 * Plays sequences, each on an implementation of its own. A guard against what does not end costs more than a whole sequence
 * of calls, so that those which need not be waited for are played many at a time behind one.
 */
export async function playAll<Target extends object>(
  implementation: Implementation<Target>,
  sequences: readonly (readonly Step[])[],
  terms: PlayTerms,
  take: Take<Target>,
): Promise<void> {
  let size = 1;
  for (let at = 0; at < sequences.length; ) {
    const batch = new Batch(implementation, sequences.slice(at, at + size), terms);
    batch.play();
    if (batch.hasWaited) await batch.finish();
    if (batch.abandoned) await implementation.release?.(batch.abandoned);
    for (const { made, steps, played } of batch.played) {
      const taken = take(made, steps, played);
      const goesOn = typeof taken === "boolean" ? taken : await taken;
      if (implementation.release) await implementation.release(made);
      if (!goesOn) return;
    }
    at += batch.played.length;
    size = batch.hasWaited ? 1 : Math.min(batch.played.length * 4, MOST);
  }
}

interface PlayedOn<Target> {
  readonly made: Target;
  readonly steps: readonly Step[];
  readonly played: Playing;
}

class Batch<Target extends object> {
  readonly played: PlayedOn<Target>[] = [];
  /** What was being played on when it had to be stopped. */
  abandoned: Target | undefined;
  readonly #implementation: Implementation<Target>;
  readonly #sequences: readonly (readonly Step[])[];
  readonly #terms: PlayTerms;
  /** The sequence that has to be waited for, which is the last. */
  #waited: (() => Promise<void>) | undefined;
  #current: PlayedOn<Target> | undefined;
  /** Whether the one being played goes on behind another guard. */
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
    // One that takes its time comes alone, and would need a guard of its own.
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
      do guardedCalls((isTimeUp) => this.#playUntilWaiting(isTimeUp), this.#terms.deadline);
      while (this.#isPaused);
    } catch (error) {
      if (!(error instanceof Hung) || !this.#current) throw error;
      this.abandoned = this.#current.made;
      // Where it was not the sequence but the machine that stood still, it ends when it is played again, by itself.
      const { steps } = this.#current;
      this.#waited = async () => this.#finishOne(await this.#implementation.create(), steps);
    }
  }

  #playUntilWaiting(isTimeUp: () => boolean): void {
    while (this.#current || this.played.length < this.#sequences.length) {
      if (!this.#current) {
        if (this.played.length > 0 && isTimeUp()) return;
        const steps = this.#sequences[this.played.length] as readonly Step[];
        const made = this.#implementation.create();
        if (isPromise(made)) {
          this.#waited = async () => this.#finishOne((await made) as Target, steps);
          return;
        }
        this.#current = { made, steps, played: new Playing(made, steps, this.#terms) };
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

  async #finishOne(made: Target, steps: readonly Step[]): Promise<void> {
    const playing = new Playing(made, steps, this.#terms);
    await playing.toEnd();
    this.played.push({ made, steps, played: playing });
  }
}
