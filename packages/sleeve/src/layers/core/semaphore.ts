/** Counts the calls in flight, and queues the others. */
export class Semaphore {
  #free: number;
  #queue: (() => void)[] = [];
  #head = 0;

  constructor(places: number) {
    this.#free = places;
  }

  get waiting(): number {
    return this.#queue.length - this.#head;
  }

  enter(): boolean {
    if (this.#free === 0) return false;
    this.#free -= 1;
    return true;
  }

  wait(): Promise<void> {
    return new Promise((resolve) => this.#queue.push(resolve));
  }

  /** Starts the call that has waited longest. */
  leave(): void {
    const next = this.#queue[this.#head];
    if (!next) {
      this.#free += 1;
      return;
    }
    this.#head += 1;
    if (this.#head > 1024 && this.#head * 2 > this.#queue.length) {
      this.#queue = this.#queue.slice(this.#head);
      this.#head = 0;
    }
    next();
  }
}
