import { workerData } from "node:worker_threads";
import { COUNTER, fileRecordOf, type ReaderTask, type ReadLot } from "./file-records.ts";

// The other side of FileRecords, in a thread of its own.
const { paths, lot, counters, port } = workerData as ReaderTask;
const count = new Int32Array(counters);
const takeLot = () => Atomics.add(count, COUNTER.next, lot);

for (let start = takeLot(); start < paths.length; start = takeLot()) {
  port.postMessage([start, paths.slice(start, start + lot).map(fileRecordOf)] satisfies ReadLot);
  Atomics.add(count, COUNTER.sent, 1);
  Atomics.notify(count, COUNTER.sent);
}
