import { Worker } from "node:worker_threads";
import type { Program } from "./program.ts";
import type { WatchdogMessage } from "./watchdog.ts";

/** The compiler was ended, because it took too long or too much memory. Its program is of no further use. */
export class CompilerEnded extends Error {}

/** Runs requests to compilers with a timeout, and a limit of half the machine's memory. Close it at the end. */
export class BoundedCompiler {
  readonly #thread = new Worker(new URL("./watchdog.js", import.meta.url));
  readonly #timeout: number;

  /** @param timeout time for each call of `run`, in milliseconds */
  constructor(timeout: number) {
    this.#timeout = timeout;
    this.#thread.unref();
  }

  /** @throws {CompilerEnded} */
  run<Result>(program: Program, request: () => Result): Result {
    const hasEnded = new SharedArrayBuffer(4);
    const pid = program.processId();
    if (pid !== undefined) this.#send({ pid, timeout: this.#timeout, hasEnded });
    try {
      return request();
    } catch (error) {
      if (Atomics.load(new Int32Array(hasEnded), 0) === 1)
        throw new CompilerEnded("The compiler was ended.", { cause: error });
      throw error;
    } finally {
      this.#send(null);
    }
  }

  [Symbol.dispose](): void {
    void this.#thread.terminate();
  }

  #send(message: WatchdogMessage): void {
    this.#thread.postMessage(message);
  }
}
