import { spawn } from "node:child_process";
import { once } from "node:events";
import { dirname } from "node:path";

/** Deadline of a config, in milliseconds. */
const TIMEOUT = 10_000;

/** The value of a config, or why there is none. */
export type ConfigRun = { readonly value: unknown } | { readonly failure: string };

/**
 * Runs a config in a process of its own, which is killed after 10 seconds and whose output is discarded. The value
 * must be plain data.
 */
export async function runConfig(path: string): Promise<ConfigRun> {
  const child = spawn(
    process.execPath,
    ["--input-type=module", "-e", RUNNER, import.meta.resolve("jiti"), path],
    { cwd: dirname(path), stdio: ["ignore", "ignore", "ignore", "ipc"] },
  );
  let result: ConfigRun | undefined;
  child.on("message", (message) => {
    const { text, failure } = message as { readonly text?: string; readonly failure?: string };
    if (failure !== undefined) result ??= { failure };
    else result ??= { value: text === undefined ? undefined : JSON.parse(text) };
  });
  child.on("error", ({ message }) => {
    result ??= { failure: message };
  });
  const timer = setTimeout(() => {
    result ??= { failure: `it does not end within ${TIMEOUT / 1000} seconds` };
    child.kill("SIGKILL");
  }, TIMEOUT);
  const [code] = (await once(child, "close")) as [number | null];
  clearTimeout(timer);
  return result ?? { failure: code === 0 ? "it ends the process" : "it never exports a value" };
}

/** The program of the process. A config that waits forever leaves nothing to do, which ends it. */
const RUNNER = `
const [, loader, path] = process.argv;
const send = (message) => new Promise((sent) => process.send(message, sent));
process.channel?.unref();
try {
  const { createJiti } = await import(loader);
  const value = await createJiti(loader, { moduleCache: false, fsCache: false }).import(path, { default: true });
  const isPlain = (part) =>
    part === null || typeof part !== "object"
      ? typeof part !== "function" && typeof part !== "symbol" && typeof part !== "bigint"
      : Object.values(part).every(isPlain);
  if (!isPlain(value)) await send({ failure: "it exports more than plain data" });
  else await send({ text: JSON.stringify(value) });
} catch (error) {
  await send({ failure: String(error?.message ?? error).split("\\n")[0] });
}
process.exit(0);
`;
