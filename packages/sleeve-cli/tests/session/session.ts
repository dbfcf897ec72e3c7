import { join } from "node:path";
import { MessageChannel, receiveMessageOnPort, Worker } from "node:worker_threads";

/** The result of a command. */
export interface Run {
  readonly code: number | null;
  readonly stdout: string;
  readonly stderr: string;
}

const signal = new Int32Array(new SharedArrayBuffer(4));
const { port1: port, port2 } = new MessageChannel();
let thread: Worker | undefined;

/** Runs the command in a process that later runs use too, and waits for its end. */
export function runInSession(
  cwd: string,
  args: readonly string[],
  env: Readonly<Record<string, string>>,
): Run {
  if (!thread) {
    thread = new Worker(join(import.meta.dirname, "session-thread.mjs"), {
      workerData: { port: port2, signal },
      transferList: [port2],
    });
    thread.unref();
    port.unref();
  }
  Atomics.store(signal, 0, 0);
  port.postMessage({ cwd, args, env });
  Atomics.wait(signal, 0, 0);
  return receiveMessageOnPort(port)?.message as Run;
}
