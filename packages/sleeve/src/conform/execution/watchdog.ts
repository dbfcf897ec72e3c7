import { host } from "../../shared/host.ts";
import { watchTimeout } from "./stalls.ts";

interface VirtualMachine {
  readonly Script: new (code: string) => { runInThisContext(options: { timeout: number }): unknown };
}

/** Thrown in place of code that does not end. */
export class WatchdogTimeout extends Error {}

/**
 * Runs a function and stops it if it does not end, for example in an endless loop. Only Node.js can stop
 * running code; elsewhere the function just runs. Code after an `await` cannot be stopped.
 *
 * @throws {WatchdogTimeout} after the given milliseconds
 */
export function runWithWatchdog<Result>(run: () => Result, milliseconds: number): Result {
  const script = scriptOf();
  if (!script) return run();
  const before = waiting;
  let result: { readonly value: Result } | undefined;
  const watch = watchTimeout(milliseconds);
  waiting = () => {
    result = { value: run() };
  };
  try {
    script.runInThisContext({ timeout: milliseconds });
  } catch (error) {
    if ((error as { code?: unknown } | null)?.code !== "ERR_SCRIPT_EXECUTION_TIMEOUT") throw error;
    watch.stopped();
    throw new WatchdogTimeout();
  } finally {
    waiting = before;
  }
  return (result as unknown as { readonly value: Result }).value;
}

/** The share of one call's timeout that a batch of calls may use under one watchdog. */
const SHARE = 1 / 8;

/**
 * Runs many calls under one watchdog, each with the given timeout in milliseconds.
 *
 * Between two calls, `run` is queried whether to return and continue under a new watchdog. Stopping is only
 * for code that does not end: it may interrupt anything, including the host's own timers, and leave it
 * broken.
 *
 * @throws {WatchdogTimeout} if one call exceeds the timeout
 */
export function runCallsWithWatchdog<Result>(
  run: (isTimeUp: () => boolean) => Result,
  milliseconds: number,
): Result {
  const { performance } = host;
  if (!performance) return run(() => false);
  const end = performance.now() + milliseconds * SHARE;
  return runWithWatchdog(() => run(() => performance.now() > end), Math.ceil(milliseconds * (1 + SHARE)));
}

let waiting: (() => void) | undefined;
let script: InstanceType<VirtualMachine["Script"]> | undefined;

/** The script has only the global scope, so it finds the function under a symbol there. */
function scriptOf(): typeof script {
  if (script) return script;
  const machine = host.process?.getBuiltinModule?.("node:vm") as VirtualMachine | undefined;
  if (!machine) return undefined;
  const name = freeName();
  Object.defineProperty(globalThis, Symbol.for(name), { value: () => waiting?.(), configurable: true });
  script = new machine.Script(`globalThis[Symbol.for("${name}")]()`);
  return script;
}

/** Returns a name that no other copy of this library uses in the same process. */
function freeName(): string {
  for (let count = 1; ; count++) {
    const name = `sleeve.conform.waiting.${count}`;
    if (!(Symbol.for(name) in globalThis)) return name;
  }
}
