import async from "async";

function tide(station: string, callback: (error: Error | null, metres?: number) => void): void {
  setImmediate(() => (station === "" ? callback(new Error("silent")) : callback(null, station.length)));
}

async.map(["quay", "bar"], tide, (error, results) => {
  console.log(error, results?.join());
});
async.parallel(
  {
    fog: (done: (error: null, value: boolean) => void) => done(null, true),
    wind: (done: (error: null, value: boolean) => void) => done(null, false),
  },
  (error, results) => console.log(error, JSON.stringify(results)),
);
async.waterfall(
  [
    (next: (error: null, value: number) => void) => next(null, 2),
    (value: number, next: (error: null, value: number) => void) => next(null, value * 3),
  ],
  (error, result) => console.log(error, result),
);

const jobs = async.queue<string, Error>((name, done) => {
  console.log("job", name);
  done();
}, 2);
jobs.drain(() => console.log("drained"));
jobs.push("Heron");
jobs.push(["Curlew", "Gannet"], (error) => console.log(error ?? "done"));
await async.eachSeries(["a", "b"], async (name: string) => console.log(name));
