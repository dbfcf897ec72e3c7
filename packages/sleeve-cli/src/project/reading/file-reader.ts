import { workerData } from "node:worker_threads";
import { COUNTER, fileRecordOf, type ReadBatch, type ReaderTask } from "./file-records.ts";

// The worker thread of FileRecords.
const { paths, batch, counters, port } = workerData as ReaderTask;
const count = new Int32Array(counters);
const takeLot = () => Atomics.add(count, COUNTER.next, batch);

for (let start = takeLot(); start < paths.length; start = takeLot()) {
  port.postMessage([start, paths.slice(start, start + batch).map(fileRecordOf)] satisfies ReadBatch);
  Atomics.add(count, COUNTER.sent, 1);
  Atomics.notify(count, COUNTER.sent);
}
