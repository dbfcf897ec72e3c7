import { readFileSync } from "node:fs";
import { availableParallelism } from "node:os";
import { MessageChannel, type MessagePort, receiveMessageOnPort, Worker } from "node:worker_threads";
import { type ModuleRecord, moduleRecordOf } from "../parser/module-record.ts";

/** A file's text, and what its syntax tells. */
export interface FileRecord extends ModuleRecord {
  readonly text: string;
}

/** Reads and parses a file; `undefined` where it cannot be read. */
export function fileRecordOf(path: string): FileRecord | undefined {
  let text: string;
  try {
    // The compiler does not count a byte-order mark, nor do editors.
    text = readFileSync(path, "utf8").replace(/^\uFEFF/, "");
  } catch {
    return undefined;
  }
  return { text, ...moduleRecordOf(path, text) };
}

/** What a worker is given: it takes files in lots, each the next that nobody has taken, until there are none. */
export interface ReaderTask {
  readonly paths: readonly string[];
  readonly lot: number;
  readonly counters: SharedArrayBuffer;
  readonly port: MessagePort;
}

/** What a worker sends: the records of one lot, by the place of its first file. */
export type ReadLot = readonly [start: number, records: readonly (FileRecord | undefined)[]];

/** Where in the counters stands the place of the next file that nobody has taken, and how many lots workers have sent. */
export const COUNTER = { next: 0, sent: 1 } as const;

/** So many files are taken at once. */
const LOT = 32;
/** So many files are worth a worker more, which takes its time to start. */
const FILES_A_WORKER = 400;
/** So long it is waited for workers that send nothing, in milliseconds, before their files are read without them. */
const PATIENCE = 5000;

/**
 * The records of many files, which workers read while this thread does other things, waiting for the compiler, say. Few files
 * are read when they are asked for.
 */
export class FileRecords {
  readonly #paths: readonly string[];
  readonly #counters = new SharedArrayBuffer(8);
  readonly #count = new Int32Array(this.#counters);
  readonly #workers: Worker[] = [];
  readonly #ports: MessagePort[] = [];
  #records: Map<string, FileRecord | undefined> | undefined;

  /** Begins to read. */
  static start(paths: readonly string[]): FileRecords {
    const records = new FileRecords(paths);
    const wanted = Math.floor(paths.length / FILES_A_WORKER);
    for (let left = Math.min(wanted, availableParallelism() - 1); left > 0; left--) records.#addWorker();
    return records;
  }

  private constructor(paths: readonly string[]) {
    this.#paths = paths;
  }

  /** The record of a file, as it was read once; `undefined` where it cannot be read. Waits until all are read. */
  get(path: string): FileRecord | undefined {
    this.#records ??= this.#readAll();
    if (!this.#records.has(path)) this.#records.set(path, fileRecordOf(path));
    return this.#records.get(path);
  }

  #addWorker(): void {
    const { port1, port2 } = new MessageChannel();
    const workerData: ReaderTask = { paths: this.#paths, lot: LOT, counters: this.#counters, port: port2 };
    const worker = new Worker(new URL("./file-reader.js", import.meta.url), {
      workerData,
      transferList: [port2],
    });
    worker.unref();
    // What it did not read is read here.
    worker.on("error", () => {});
    this.#workers.push(worker);
    this.#ports.push(port1);
  }

  /** This thread does its share, and then waits for the others. */
  #readAll(): Map<string, FileRecord | undefined> {
    const found = new Map<string, FileRecord | undefined>();
    if (this.#workers.length === 0) return found;
    const lots = Math.ceil(this.#paths.length / LOT);
    let received = 0;
    const take = ([start, records]: ReadLot) => {
      received++;
      records.forEach((record, at) => {
        found.set(this.#paths[start + at] as string, record);
      });
    };
    for (let start = this.#takeLot(); start < this.#paths.length; start = this.#takeLot())
      take([start, this.#paths.slice(start, start + LOT).map(fileRecordOf)]);
    while (received < lots) {
      const sent = Atomics.load(this.#count, COUNTER.sent);
      const before = received;
      for (const port of this.#ports)
        for (let each = receiveMessageOnPort(port); each; each = receiveMessageOnPort(port))
          take(each.message as ReadLot);
      if (received > before || received === lots) continue;
      if (Atomics.wait(this.#count, COUNTER.sent, sent, PATIENCE) === "timed-out") break;
    }
    for (const port of this.#ports) port.close();
    for (const worker of this.#workers) void worker.terminate();
    return found;
  }

  #takeLot(): number {
    return Atomics.add(this.#count, COUNTER.next, LOT);
  }
}
