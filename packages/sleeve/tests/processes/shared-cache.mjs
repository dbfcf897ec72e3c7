// Run twice at a time by shared-cache.test.ts: computes a slow sum through a cache that both processes share on Redis.
import { createClient } from "redis";
import { cached, decorate } from "sleeve";

const client = createClient({ url: process.argv[2], disableOfflineQueue: true });
client.on("error", () => {});
await client.connect();

/** Adapts the Redis client to the store of the cache. */
const store = {
  get: (key) => client.get(key),
  add: async (key, text, milliseconds) =>
    (await client.set(key, text, { condition: "NX", expiration: { type: "PX", value: milliseconds } })) ===
    "OK",
  delete: (key) => client.del(key),
};

const computed = [];
const sums = decorate(
  {
    async heightAt(hour) {
      computed.push(hour);
      await new Promise((done) => setTimeout(done, 100));
      return { metres: hour / 2 };
    },
  },
  cached({ only: ["heightAt"], store, ttl: "1m", storeTimeout: 200, name: "test" }),
);

process.on("message", async (hours) => {
  const heights = [];
  for (const hour of hours) heights.push((await sums.heightAt(hour)).metres);
  process.send({ heights, computed });
});
process.on("disconnect", () => process.exit());
process.send("ready");
