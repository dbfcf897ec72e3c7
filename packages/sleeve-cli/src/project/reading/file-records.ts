import { spawnSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { availableParallelism } from "node:os";
import { fileURLToPath } from "node:url";
import { MessageChannel, type MessagePort, receiveMessageOnPort, Worker } from "node:worker_threads";
import { type ModuleRecord, moduleRecordOf } from "../../parser/module-record.ts";
import { isDeep, parseAnyDepth } from "../../parser/parse.ts";

/** A file's text and the facts from its syntax. */
export interface FileRecord extends ModuleRecord {
  readonly text: string;
}

/** What reading a file gives: `undefined` if it cannot be read. */
export type FileReading = FileRecord | "too deep" | undefined;

/** Reads and parses a file. */
export function fileRecordOf(path: string): FileReading {
  let text: string;
  try {
    // Neither the compiler nor editors count a byte-order mark.
    text = readFileSync(path, "utf8").replace(/^\uFEFF/, "");
  } catch {
    return undefined;
  }
  return isDeep(path, text) ? recordReadApart(path) : { text, ...moduleRecordOf(path, text) };
}

/** Parses a file, however deeply it is nested. */
export function readRecord(path: string, text: string): FileRecord {
  return { text, ...moduleRecordOf(path, text, parseAnyDepth) };
}

/** Parses a file in a process of its own, which it may end. */
function recordReadApart(path: string): FileReading {
  const script = fileURLToPath(new URL("./deep-parser.js", import.meta.url));
  const { status, stdout } = spawnSync(process.execPath, [`--stack-size=${DEEP_STACK}`, script, path], {
    encoding: "utf8",
    maxBuffer: 1 << 30,
    stdio: ["ignore", "pipe", "ignore"],
  });
  return status === 0 ? (JSON.parse(stdout) as FileRecord) : "too deep";
}

/** Size of the stack of the process that parses deep code, in kilobytes; half of what systems usually grant. */
const DEEP_STACK = 3900;

/** The input of a worker, which takes batches of files from a shared counter until none are left. */
export interface ReaderTask {
  readonly paths: readonly string[];
  readonly batch: number;
  readonly counters: SharedArrayBuffer;
  readonly port: MessagePort;
}

/** The output of a worker: the records of one batch, by the index of its first file. */
export type ReadBatch = readonly [start: number, records: readonly FileReading[]];

/** Indices of the counters: the next free file, and the number of batches sent. */
export const COUNTER = { next: 0, sent: 1 } as const;

/** Number of files in a batch. */
const BATCH_SIZE = 32;
/** Number of files that justify another worker, which takes time to start. */
const FILES_PER_WORKER = 400;
/** Time to wait for silent workers, in milliseconds, before their files are read without them. */
const READ_TIMEOUT = 5000;

/**
 * Records of many files, read by workers while this thread waits for the compiler. Few files are read on
 * demand.
 */
export class FileRecords {
  readonly #paths: readonly string[];
  readonly #counters = new SharedArrayBuffer(8);
  readonly #count = new Int32Array(this.#counters);
  readonly #workers: Worker[] = [];
  readonly #ports: MessagePort[] = [];
  /** Texts of files that exist only in memory. */
  readonly #shown = new Map<string, string>();
  #records: Map<string, FileReading> | undefined;

  /** Starts reading. */
  static start(paths: readonly string[], shown: ReadonlyMap<string, string> = new Map()): FileRecords {
    const records = new FileRecords(paths.filter((path) => !shown.has(path)));
    for (const [path, text] of shown) records.#shown.set(path, text);
    const workerCount = Math.floor(paths.length / FILES_PER_WORKER);
    for (
      let remainingWorkers = Math.min(workerCount, availableParallelism() - 1);
      remainingWorkers > 0;
      remainingWorkers--
    )
      records.#addWorker();
    return records;
  }

  private constructor(paths: readonly string[]) {
    this.#paths = paths;
  }

  /** Returns the record of a file; `undefined` if it cannot be read. Waits until all files are read. */
  get(path: string): FileReading {
    this.#records ??= this.#readAll();
    if (!this.#records.has(path)) {
      const text = this.#shown.get(path);
      this.#records.set(
        path,
        text === undefined ? fileRecordOf(path) : { text, ...moduleRecordOf(path, text) },
      );
    }
    return this.#records.get(path);
  }

  #addWorker(): void {
    const { port1, port2 } = new MessageChannel();
    const workerData: ReaderTask = {
      paths: this.#paths,
      batch: BATCH_SIZE,
      counters: this.#counters,
      port: port2,
    };
    const worker = new Worker(new URL("./file-reader.js", import.meta.url), {
      workerData,
      transferList: [port2],
    });
    worker.unref();
    // Files that no worker read are read here.
    worker.on("error", () => {});
    this.#workers.push(worker);
    this.#ports.push(port1);
  }

  /** This thread reads batches too, and then waits for the workers. */
  #readAll(): Map<string, FileReading> {
    const readings = new Map<string, FileReading>();
    if (this.#workers.length === 0) return readings;
    const lots = Math.ceil(this.#paths.length / BATCH_SIZE);
    let received = 0;
    const take = ([start, records]: ReadBatch) => {
      received++;
      records.forEach((record, at) => {
        readings.set(this.#paths[start + at] as string, record);
      });
    };
    for (let start = this.#takeLot(); start < this.#paths.length; start = this.#takeLot())
      take([start, this.#paths.slice(start, start + BATCH_SIZE).map(fileRecordOf)]);
    while (received < lots) {
      const sent = Atomics.load(this.#count, COUNTER.sent);
      const before = received;
      for (const port of this.#ports)
        for (let item = receiveMessageOnPort(port); item; item = receiveMessageOnPort(port))
          take(item.message as ReadBatch);
      if (received > before || received === lots) continue;
      if (Atomics.wait(this.#count, COUNTER.sent, sent, READ_TIMEOUT) === "timed-out") break;
    }
    for (const port of this.#ports) port.close();
    for (const worker of this.#workers) void worker.terminate();
    return readings;
  }

  #takeLot(): number {
    return Atomics.add(this.#count, COUNTER.next, BATCH_SIZE);
  }
}
