import { host } from "../../shared/host.ts";

/** Shortest wait, in milliseconds. */
const MIN_WAIT = 4;

/**
 * Waits for timers that code has started. It waits less after timers that did not end, because code that leaves some
 * running does so in each call.
 */
export class TimerWait {
  readonly #max: number;
  #limit: number;

  /** @param max longest time to wait, in milliseconds */
  constructor(max: number) {
    this.#max = max;
    this.#limit = max;
  }

  /** Waits until no timer is pending. */
  async while(isPending: () => boolean): Promise<void> {
    let remaining = this.#limit;
    for (let time = 1; isPending() && remaining > 0; time *= 2) {
      await pause(Math.min(time, remaining));
      remaining -= time;
    }
    this.#limit = isPending() ? Math.max(MIN_WAIT, this.#limit / 2) : Math.min(this.#max, this.#limit * 2);
  }
}

/** Returns the number of timers that keep the process running. Only Node.js reports them; elsewhere 0. */
export function pendingTimers(): number {
  const active = host.process?.getActiveResourcesInfo?.() ?? [];
  return active.filter((resource) => resource === "Timeout" || resource === "Immediate").length;
}

export function pause(milliseconds: number): Promise<void> {
  return new Promise((resolve) => {
    if (host.setTimeout) host.setTimeout(resolve, milliseconds);
    else resolve();
  });
}
