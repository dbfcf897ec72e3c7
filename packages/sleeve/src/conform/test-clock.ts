import type { Clock } from "../shared/clock.ts";

/** A clock for layers that moves only when a test says so. */
export interface TestClock extends Clock {
  /**
   * Moves the time forward, and runs what was due meanwhile, in order. Promises settle between two timers.
   *
   * @param milliseconds above or equal to 0
   */
  advance(milliseconds: number): Promise<void>;
}

interface Timer {
  readonly at: number;
  readonly run: () => void;
}

/**
 * Creates a clock that a test controls. Pass it as `clock` to layers that wait, repeat or expire.
 *
 * @param start its first time, in milliseconds. Default: 0.
 *
 * @example
 * import { cached, decorate } from "sleeve";
 * import { testClock } from "sleeve/conform";
 *
 * const clock = testClock();
 * const table = decorate({ level: () => 3 }, cached({ ttl: "10m", clock }));
 * table.level();
 * await clock.advance(600_001);
 */
export function testClock(start = 0): TestClock {
  let now = start;
  const timers = new Set<Timer>();
  return {
    now: () => now,
    after(milliseconds, run) {
      const timer = { at: now + milliseconds, run };
      timers.add(timer);
      return () => timers.delete(timer);
    },
    async advance(milliseconds) {
      const end = now + milliseconds;
      for (;;) {
        await settled();
        const [next] = [...timers].sort((left, right) => left.at - right.at);
        if (!next || next.at > end) break;
        timers.delete(next);
        now = Math.max(now, next.at);
        next.run();
      }
      now = end;
      await settled();
    },
  };
}

/** Number of promises in a chain that settle before the next timer. */
const CHAIN = 32;

async function settled(): Promise<void> {
  for (let at = 0; at < CHAIN; at += 1) await undefined;
}
