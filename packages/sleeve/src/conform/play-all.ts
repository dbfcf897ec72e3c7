import { guarded, Hung } from "./guarded.ts";
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
    for (const { made, steps, played } of batch.played) {
      const taken = take(made, steps, played);
      const goesOn = typeof taken === "boolean" ? taken : await taken;
      if (implementation.release) await implementation.release(made);
      if (!goesOn) return;
    }
    if (batch.abandoned) await implementation.release?.(batch.abandoned);
    at += batch.played.length;
    size = batch.hasWaited || batch.abandoned ? 1 : Math.min(size * 4, MOST);
  }
}

interface PlayedOn<Target> {
  readonly made: Target;
  readonly steps: readonly Step[];
  readonly played: Playing;
}

class Batch<Target extends object> {
  readonly played: PlayedOn<Target>[] = [];
  /** What was being played on when the batch as a whole took too long. */
  abandoned: Target | undefined;
  readonly #implementation: Implementation<Target>;
  readonly #sequences: readonly (readonly Step[])[];
  readonly #terms: PlayTerms;
  /** The sequence that has to be waited for, which is the last. */
  #waited: (() => Promise<void>) | undefined;
  #current: PlayedOn<Target> | undefined;

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
    if (this.#sequences.length === 1 && isKnown) this.#playUntilWaiting();
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
      guarded(() => this.#playUntilWaiting(), this.#terms.deadline);
    } catch (error) {
      if (!(error instanceof Hung)) throw error;
      // Many together may take longer than the deadline and yet end; the one that was stopped is played again by itself.
      if (this.played.length > 0 || !this.#current) {
        this.abandoned = this.#current?.made;
        return;
      }
      this.#current.played.stop();
      this.played.push(this.#current);
    }
  }

  #playUntilWaiting(): void {
    for (const steps of this.#sequences) {
      const made = this.#implementation.create();
      if (isPromise(made)) {
        this.#waited = async () => this.#finishOne((await made) as Target, steps);
        return;
      }
      const playing = new Playing(made, steps, this.#terms);
      this.#current = { made, steps, played: playing };
      const waited = playing.begin();
      if (waited || !playing.isOver) {
        const current = this.#current;
        this.#waited = async () => {
          await waited;
          await playing.toEnd();
          this.played.push(current);
        };
        return;
      }
      this.played.push(this.#current);
    }
  }

  async #finishOne(made: Target, steps: readonly Step[]): Promise<void> {
    const playing = new Playing(made, steps, this.#terms);
    await playing.toEnd();
    this.played.push({ made, steps, played: playing });
  }
}
