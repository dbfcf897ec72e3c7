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
