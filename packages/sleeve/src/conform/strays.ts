import { host } from "../host.ts";

type Listener = (error: unknown) => void;

const EVENTS = ["uncaughtException", "unhandledRejection"] as const;

/** So long it is waited for what was put off, in milliseconds: longer than for a timer of no time at all. */
const AFTERWARDS = 2;

/** Who takes what nobody caught, at the moment; the others listen again when the last of these is gone. */
const takers: Listener[] = [];
let others: (readonly [string, readonly Listener[]])[] = [];

/**
 * Runs something and takes every error that nobody caught meanwhile: one thrown from a timer, a rejected promise that was
 * dropped. In Node.js these would end the process, and the run with it; elsewhere they are left to the host.
 */
export async function withStrays<Result>(
  run: () => Promise<Result>,
): Promise<{ readonly result: Result; readonly strays: readonly unknown[] }> {
  const strays: unknown[] = [];
  const take: Listener = (error) => strays.push(error);
  if (takers.push(take) === 1) listen();
  try {
    const result = await run();
    await new Promise<void>((resolve) => {
      if (host.setTimeout) host.setTimeout(resolve, AFTERWARDS);
      else resolve();
    });
    return { result, strays };
  } finally {
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
    for (const each of listeners) process?.on?.(event, each);
  }
  others = [];
}
