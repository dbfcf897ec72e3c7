import { host } from "../../shared/host.ts";
import { pause, pendingTimers, TimerWait } from "./pending-timers.ts";
import { StartedTimers } from "./started-timers.ts";

type Listener = (error: unknown) => void;

const EVENTS = ["uncaughtException", "unhandledRejection"] as const;

/** Time to wait for deferred errors, in milliseconds; longer than a zero timer. */
const AFTERWARDS = 2;
/** Timers that the code has started may end in an error. */
const timerWait = new TimerWait(500);

/** Current receivers of uncaught errors. The host's listeners are restored when the last one is removed. */
const takers: Listener[] = [];
let others: (readonly [string, readonly Listener[]])[] = [];

/**
 * Runs a function and collects every error that is uncaught meanwhile: thrown by a timer, or a rejection that
 * nothing handles. In Node.js these would end the process; elsewhere they are left to the host.
 */
export async function captureUncaught<Result>(
  run: () => Promise<Result>,
): Promise<{ readonly result: Result; readonly uncaught: readonly unknown[] }> {
  const uncaught: unknown[] = [];
  const take: Listener = (error) => uncaught.push(error);
  if (takers.push(take) === 1) listen();
  const before = pendingTimers();
  const started = new StartedTimers();
  try {
    const result = await run();
    await pause(AFTERWARDS);
    await timerWait.while(() => started.isPending || pendingTimers() > before);
    return { result, uncaught };
  } finally {
    started.end();
    takers.splice(takers.indexOf(take), 1);
    if (takers.length === 0) leave();
  }
}

const listener: Listener = (error) => takers.at(-1)?.(error);

function listen(): void {
  const { process } = host;
  if (!process?.listeners) return;
  others = EVENTS.map((event) => [event, process.listeners?.(event) ?? []]);
  for (const event of EVENTS) {
    process.removeAllListeners?.(event);
    process.on?.(event, listener);
  }
}

function leave(): void {
  const { process } = host;
  for (const [event, listeners] of others) {
    process?.removeListener?.(event, listener);
    for (const listener of listeners) process?.on?.(event, listener);
  }
  others = [];
}
