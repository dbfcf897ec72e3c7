import { host } from "../../shared/host.ts";

/**
 * Counts how often the process could not run when it should have, because the machine was busy or suspended. What exceeded its
 * timeout meanwhile says nothing about an implementation.
 */
let stalls = 0;

export function stallsSoFar(): number {
  return stalls;
}

/** The share of a time that a process which is busy itself uses of the processor, at least. */
const BUSY_SHARE = 0.5;

/** How much longer than a timeout a timer takes on a machine that is not busy, at most. */
const LATE_FACTOR = 1.5;
const LATE_MILLISECONDS = 25;

/** What notes, when a timeout has passed, whether the machine stalled meanwhile. */
interface TimeoutWatch {
  /** For code that was stopped. Where it is not known how much of the processor it used, it counts as endless. */
  stopped(): void;
  /** For a timer that has fired. It may also be late because the process was busy itself. */
  fired(): void;
}

/** Starts to watch a timeout. */
export function watchTimeout(milliseconds: number): TimeoutWatch {
  const { performance } = host;
  const start = performance?.now() ?? 0;
  const used = processorTime() ?? 0;
  const isIdle = (elapsed: number): boolean => {
    const time = processorTime();
    return time === undefined || time - used < elapsed * BUSY_SHARE;
  };
  return {
    stopped() {
      if (processorTime() !== undefined && isIdle(milliseconds)) stalls += 1;
    },
    fired() {
      const elapsed = (performance?.now() ?? 0) - start;
      if (elapsed > milliseconds * LATE_FACTOR + LATE_MILLISECONDS && isIdle(elapsed)) stalls += 1;
    },
  };
}

/** Returns the processor time of the process in milliseconds; `undefined` if the host does not measure it. */
function processorTime(): number | undefined {
  const usage = host.process?.cpuUsage?.();
  return usage && (usage.user + usage.system) / 1000;
}
