/** Starts the process that runs commands, and passes runs on to it. The thread that waits for an answer is blocked meanwhile. */
import { fork } from "node:child_process";
import { join } from "node:path";
import { workerData } from "node:worker_threads";

const { port, signal } = workerData;
let child;

function start() {
  child = fork(join(import.meta.dirname, "cli-process.mjs"), {
    stdio: ["ignore", "ignore", "inherit", "ipc"],
    execArgv: [],
  });
  child.on("message", answer);
  child.on("exit", (code, name) => {
    child = undefined;
    answer({ code: null, stdout: "", stderr: `The process ended with ${name ?? code}.\n` });
  });
}

let isWaiting = false;

function answer(result) {
  if (!isWaiting) return;
  isWaiting = false;
  port.postMessage(result);
  Atomics.store(signal, 0, 1);
  Atomics.notify(signal, 0);
}

port.on("message", (request) => {
  if (request === "end") {
    child?.removeAllListeners();
    child?.kill();
    port.close();
    return;
  }
  isWaiting = true;
  if (!child) start();
  child.send(request);
});
