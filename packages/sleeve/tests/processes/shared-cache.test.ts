import { type ChildProcess, fork, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, rmSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";

let folder: string;
let redis: ChildProcess;
let clients: ChildProcess[];

async function freePort(): Promise<number> {
  const server = createServer().listen(0, "127.0.0.1");
  await once(server, "listening");
  const { port } = server.address() as { readonly port: number };
  server.close();
  await once(server, "close");
  return port;
}

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), "sleeve-redis-"));
  const port = await freePort();
  const options = [
    "--port",
    String(port),
    "--bind",
    "127.0.0.1",
    "--dir",
    folder,
    "--save",
    "",
    "--appendonly",
    "no",
  ];
  redis = spawn("redis-server", options, { stdio: ["ignore", "pipe", "inherit"] });
  await new Promise<void>((resolve, reject) => {
    redis.on("error", (cause) => reject(new Error("redis-server cannot be started. Install it.", { cause })));
    redis.stdout?.on("data", (text: Buffer) => {
      if (/ready to accept connections/i.test(text.toString())) resolve();
    });
  });
  const start = () =>
    fork(join(import.meta.dirname, "shared-cache.mjs"), [`redis://127.0.0.1:${port}`], { silent: true });
  clients = [start(), start()];
  await Promise.all(clients.map((client) => once(client, "message")));
});

afterEach(async () => {
  for (const client of clients) client.kill("SIGKILL");
  redis.kill("SIGKILL");
  rmSync(folder, { recursive: true, force: true });
});

/** Requests the heights at these hours in each process. */
function request(
  hours: readonly number[],
): Promise<{ readonly heights: number[]; readonly computed: number[] }[]> {
  return Promise.all(
    clients.map(async (client) => {
      const answer = once(client, "message");
      client.send(hours as number[]);
      return (await answer)[0];
    }),
  );
}

test("two processes that call at the same time compute each result once, on a real Redis", async () => {
  const hours = [1, 2, 3, 4];
  const answers = await request(hours);
  expect(answers.map(({ heights }) => heights)).toEqual([
    hours.map((hour) => hour / 2),
    hours.map((hour) => hour / 2),
  ]);
  expect(answers.flatMap(({ computed }) => computed).sort()).toEqual(hours);
  const again = await request(hours);
  expect(again.flatMap(({ computed }) => computed).sort()).toEqual(hours);
});

test("a Redis that is killed in the middle is bypassed", async () => {
  const hours = Array.from({ length: 8 }, (_, hour) => hour);
  const requested = request(hours);
  setTimeout(() => redis.kill("SIGKILL"), 250);
  const answers = await requested;
  expect(answers.map(({ heights }) => heights)).toEqual([
    hours.map((hour) => hour / 2),
    hours.map((hour) => hour / 2),
  ]);
});
