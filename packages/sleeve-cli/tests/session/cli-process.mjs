/**
 * Runs the command again and again in one process, so that only the first run loads it. Takes `{ cwd, args, env }` from its
 * parent, and answers with `{ code, stdout, stderr }`.
 */
import { join } from "node:path";
import { pathToFileURL } from "node:url";

const COMMAND = pathToFileURL(join(import.meta.dirname, "../../dist/cli.js")).href;
const environment = { ...process.env };
let count = 0;

process.on("message", async (request) => process.send(await run(request)));

async function run({ cwd, args, env }) {
  const streams = [process.stdout, process.stderr].map(captured);
  const before = new Set(process.stdout.listeners("error"));
  for (const name of Object.keys(process.env)) delete process.env[name];
  Object.assign(process.env, environment, env);
  process.chdir(cwd);
  process.argv = [process.argv[0], "sleeve", ...args];
  process.exitCode = undefined;
  try {
    // The query makes it another module, which runs.
    await import(`${COMMAND}?run=${count++}`);
  } catch (error) {
    process.stderr.write(`${error.stack}\n`);
    process.exitCode = 1;
  }
  for (const listener of process.stdout.listeners("error"))
    if (!before.has(listener)) process.stdout.removeListener("error", listener);
  const [stdout, stderr] = streams.map((stream) => stream.release());
  const code = process.exitCode ?? 0;
  process.exitCode = undefined;
  return { code, stdout, stderr };
}

function captured(stream) {
  const chunks = [];
  const { write } = stream;
  stream.write = (chunk, encoding, callback) => {
    chunks.push(Buffer.from(chunk));
    (typeof encoding === "function" ? encoding : callback)?.();
    return true;
  };
  return {
    release() {
      stream.write = write;
      return Buffer.concat(chunks).toString("utf8");
    },
  };
}
