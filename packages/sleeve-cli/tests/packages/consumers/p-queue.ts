import PQueue from "p-queue";

const queue = new PQueue({ concurrency: 2, autoStart: false });
const order: string[] = [];

async function service(name: string): Promise<string> {
  order.push(name);
  return name.toUpperCase();
}

queue.on("idle", () => console.log("idle"));
const jobs = ["tug", "pilot", "quay"].map((name) => queue.add(() => service(name), { priority: name === "quay" ? 2 : 0 }));
console.log(queue.size, queue.pending, queue.isPaused);
queue.start();
console.log((await Promise.all(jobs)).join(), order.join());
await queue.onIdle();
const all = await queue.addAll([async () => 1, async () => 2]);
console.log(all.reduce((sum, each) => sum + each, 0));
queue.clear();
