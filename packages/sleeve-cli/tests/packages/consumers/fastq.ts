import * as fastq from "fastq";
import type { done, queue, queueAsPromised } from "fastq";

interface Job {
  readonly vessel: string;
}

const calls: queue<Job, string> = fastq.default(worker, 1);

function worker(job: Job, callback: done<string>): void {
  callback(job.vessel === "" ? new Error("no vessel") : null, `called ${job.vessel}`);
}

calls.push({ vessel: "Curlew" }, (error, result) => console.log(error?.message, result));
calls.push({ vessel: "" }, (error) => console.log(error?.message));

const promised: queueAsPromised<Job, number> = fastq.promise(async ({ vessel }: Job) => vessel.length, 2);
console.log(await promised.push({ vessel: "Heron" }), promised.length(), promised.idle());
promised.drain = () => console.log("drained");
await promised.unshift({ vessel: "Gannet" });
promised.pause();
console.log(promised.paused);
