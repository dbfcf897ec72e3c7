import { host } from "../../shared/host.ts";

type Listener = (error: unknown) => void;

const EVENTS = ["uncaughtException", "unhandledRejection"] as const;

/** Time to wait for deferred errors, in milliseconds; longer than a zero timer. */
const AFTERWARDS = 2;
/** Maximum time to wait for timers that the code has started, in milliseconds. */
const MAX_PATIENCE = 500;
const MIN_PATIENCE = 16;

/** Shorter after timers that did not end, because each check of such an implementation may start some. */
let patience = MAX_PATIENCE;

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
  try {
    const result = await run();
    await pause(AFTERWARDS);
    await timersEnded(before);
    return { result, uncaught };
  } finally {
    takers.splice(takers.indexOf(take), 1);
    if (takers.length === 0) leave();
  }
}

/** Waits until the timers that were started have ended, so that their errors are not attributed to later code. */
async function timersEnded(before: number): Promise<void> {
  let left = patience;
  for (let time = AFTERWARDS; pendingTimers() > before && left > 0; time *= 2) {
    await pause(Math.min(time, left));
    left -= time;
  }
  patience =
    pendingTimers() > before ? Math.max(MIN_PATIENCE, patience / 2) : Math.min(MAX_PATIENCE, patience * 2);
}

/** Returns the number of timers that keep the process running. Only Node.js reports them; elsewhere 0. */
function pendingTimers(): number {
  const active = host.process?.getActiveResourcesInfo?.() ?? [];
  return active.filter((resource) => resource === "Timeout").length;
}

function pause(milliseconds: number): Promise<void> {
  return new Promise((resolve) => {
    if (host.setTimeout) host.setTimeout(resolve, milliseconds);
    else resolve();
  });
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
