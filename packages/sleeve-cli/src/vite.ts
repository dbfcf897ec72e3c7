import { spawn } from "node:child_process";
import { fileURLToPath } from "node:url";
import type { ErrorPayload, Plugin } from "vite";
import { wrapSchema } from "./documents/wrap-document.ts";

/** Time to wait for further saves before generating, in milliseconds. Editors save several files at once. */
const SETTLE = 60;

/**
 * A Vite plugin that keeps the files current that `sleeve wrap` has generated.
 *
 * During development, files whose types have changed are written again; if one cannot be, the overlay shows why. A build fails if a
 * file is stale. Both run `sleeve wrap` in the root of the Vite project; edited files are never overwritten.
 *
 * @example
 * import { defineConfig } from "vite";
 * import { generatedFiles } from "sleeve-cli/vite";
 *
 * export default defineConfig({ plugins: [generatedFiles()] });
 */
export function generatedFiles(options: GeneratedFilesOptions = {}): Plugin {
  let root = options.folder ?? ".";
  let isServed = false;
  let watch: Watch | undefined;
  return {
    name: "sleeve:generated-files",
    configResolved(config) {
      root = options.folder ?? config.root;
      isServed = config.command === "serve";
    },
    async buildStart() {
      if (isServed) return;
      const { problems, stale } = await regenerate(root, "--check");
      const [problem] = problems;
      if (problem) this.error(`${problem.message} [${problem.code}]`);
      if (stale.length > 0)
        this.error(`Generated files are stale: ${stale.join(", ")}. Run npx sleeve wrap --write.`);
    },
    configureServer(server) {
      const started = watchTypes(root, (problem) => {
        server.config.logger.error(`${problem.message} [${problem.code}]`);
        server.ws.send(overlayOf(problem));
      });
      watch = started;
      for (const event of ["change", "add", "unlink"] as const) server.watcher.on(event, started.onChange);
    },
    /** Vite calls this when it closes a server, with and without an HTTP server of its own. */
    async closeBundle() {
      await watch?.close();
    },
  };
}

export interface GeneratedFilesOptions {
  /** The folder of the TypeScript project. Default: the root of the Vite project. */
  readonly folder?: string;
}

interface Watch {
  readonly onChange: (path: string) => void;
  /** Resolves when no run is in progress. Starts none afterwards. */
  close(): Promise<void>;
}

/** Generates at once, and after each change of a source. One run at a time, because each takes the project's lock. */
function watchTypes(folder: string, report: (problem: Problem) => void): Watch {
  let timer: NodeJS.Timeout | undefined;
  let isClosed = false;
  let isQueued = false;
  const refresh = async () => {
    isQueued = false;
    if (isClosed) return;
    const { problems } = await regenerate(folder, "--write");
    for (const problem of problems) report(problem);
  };
  let running = refresh();
  return {
    onChange(path) {
      if (isClosed || !/\.[cm]?[jt]sx?$/.test(path)) return;
      clearTimeout(timer);
      timer = setTimeout(() => {
        if (isQueued) return;
        isQueued = true;
        running = running.then(refresh);
      }, SETTLE);
    },
    async close() {
      isClosed = true;
      clearTimeout(timer);
      await running;
    },
  };
}

interface Problem {
  readonly code: string;
  readonly message: string;
}

interface Regenerated {
  readonly problems: readonly Problem[];
  readonly stale: readonly string[];
}

/** Runs the command in a process of its own, so that the server keeps answering. Never rejects. */
function regenerate(folder: string, mode: "--check" | "--write"): Promise<Regenerated> {
  const command = fileURLToPath(new URL("./cli.js", import.meta.url));
  return new Promise((resolve) => {
    const fail = (message: string) => resolve({ problems: [{ code: "UNEXPECTED", message }], stale: [] });
    const child = spawn(process.execPath, [command, "wrap", mode, "--json"], {
      cwd: folder,
      stdio: ["ignore", "pipe", "pipe"],
    });
    const [output, errors]: [Buffer[], Buffer[]] = [[], []];
    child.stdout.on("data", (part: Buffer) => output.push(part));
    child.stderr.on("data", (part: Buffer) => errors.push(part));
    child.on("error", (error) => fail(`sleeve wrap cannot run in ${folder}: ${error.message}.`));
    child.on("close", () => {
      const result = resultOf(Buffer.concat(output).toString());
      if (result) resolve(result);
      else fail(Buffer.concat(errors).toString().trim() || `sleeve wrap was stopped in ${folder}.`);
    });
  });
}

/** Returns what the command has printed, or undefined if it was stopped before it had printed all. */
function resultOf(text: string): Regenerated | undefined {
  const { success, data } = wrapSchema.safeParse(parsed(text));
  if (!success) return undefined;
  const stale = data.wrappers.flatMap(({ file, state }) => (state === "the same" ? [] : [file]));
  return { problems: data.problems, stale };
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

function overlayOf({ code, message }: Problem): ErrorPayload {
  return {
    type: "error",
    err: { message: `${message} [${code}]`, stack: "", plugin: "sleeve:generated-files" },
  };
}
