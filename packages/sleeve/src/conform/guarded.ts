import { host } from "../host.ts";

interface VirtualMachine {
  readonly Script: new (code: string) => { runInThisContext(options: { timeout: number }): unknown };
}

/** Thrown in place of code that did not come to an end by itself. */
export class Hung extends Error {}

/**
 * Runs something and stops it where it does not end, a loop without end, say. Only Node.js offers a way to stop what runs;
 * elsewhere it just runs. What goes on after an `await` cannot be stopped either.
 *
 * @throws {Hung} when the milliseconds are over
 */
export function guarded<Result>(run: () => Result, milliseconds: number): Result {
  const script = scriptOf();
  if (!script) return run();
  const before = waiting;
  let result: { readonly value: Result } | undefined;
  waiting = () => {
    result = { value: run() };
  };
  try {
    script.runInThisContext({ timeout: milliseconds });
  } catch (error) {
    if ((error as { code?: unknown } | null)?.code === "ERR_SCRIPT_EXECUTION_TIMEOUT") throw new Hung();
    throw error;
  } finally {
    waiting = before;
  }
  return (result as unknown as { readonly value: Result }).value;
}

/** So much of the time of a call, many calls may take together behind one guard. */
const SHARE = 1 / 8;

/**
 * Runs many calls behind one guard, each of which may take the milliseconds. Between two of them is asked whether it is time
 * to come back and go on behind another guard: to be stopped is for what does not end, as what is stopped may be in the
 * middle of anything, the host's own timers included, and leave that as it is.
 *
 * @throws {Hung} when one of them takes longer
 */
export function guardedCalls<Result>(run: (isTimeUp: () => boolean) => Result, milliseconds: number): Result {
  const { performance } = host;
  if (!performance) return run(() => false);
  const end = performance.now() + milliseconds * SHARE;
  return guarded(() => run(() => performance.now() > end), Math.ceil(milliseconds * (1 + SHARE)));
}

let waiting: (() => void) | undefined;
let script: InstanceType<VirtualMachine["Script"]> | undefined;

/** The script runs what waits; it reaches it by a symbol, as it has no scope but the global one. */
function scriptOf(): typeof script {
  if (script) return script;
  const machine = host.process?.getBuiltinModule?.("node:vm") as VirtualMachine | undefined;
  if (!machine) return undefined;
  const key = Symbol.for("sleeve.conform.waiting");
  Object.defineProperty(globalThis, key, { value: () => waiting?.(), configurable: true });
  script = new machine.Script('globalThis[Symbol.for("sleeve.conform.waiting")]()');
  return script;
}
