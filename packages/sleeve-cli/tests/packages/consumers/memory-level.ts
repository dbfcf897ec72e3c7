import { MemoryLevel } from "memory-level";

const level = new MemoryLevel<string, string>({ valueEncoding: "json" });
const tides = level.sublevel<string, { metres: number }>("tides", { valueEncoding: "json" });

await tides.put("quay", { metres: 3.2 });
await tides.batch([
  { type: "put", key: "bar", value: { metres: 1.1 } },
  { type: "put", key: "spit", value: { metres: 0.4 } },
  { type: "del", key: "spit" },
]);
for await (const [station, { metres }] of tides.iterator({ gte: "b", limit: 5 })) console.log(station, metres);
console.log((await tides.get("quay"))?.metres, await tides.get("spit"));
console.log(await tides.keys().all());
await tides.clear();
await level.close();
console.log(level.status);
