import type { Clock } from "sleeve";

/** A clock that advances only on request. */
export class FakeClock implements Clock {
  #now = 0;
  #timers: { at: number; run: () => void }[] = [];

  now(): number {
    return this.#now;
  }

  after(milliseconds: number, run: () => void): () => void {
    const timer = { at: this.#now + milliseconds, run };
    this.#timers.push(timer);
    return () => {
      this.#timers = this.#timers.filter((candidate) => candidate !== timer);
    };
  }

  get waiting(): number {
    return this.#timers.length;
  }

  /** Advances the time, and runs the due timers in order. */
  async pass(milliseconds: number): Promise<void> {
    const end = this.#now + milliseconds;
    for (;;) {
      await settled();
      const [next] = this.#timers.filter(({ at }) => at <= end).sort((one, other) => one.at - other.at);
      if (!next) break;
      this.#now = Math.max(this.#now, next.at);
      this.#timers = this.#timers.filter((timer) => timer !== next);
      next.run();
    }
    this.#now = end;
  }
}

/** Waits until pending microtasks have run. */
export async function settled(): Promise<void> {
  for (let turn = 0; turn < 20; turn++) await null;
}
