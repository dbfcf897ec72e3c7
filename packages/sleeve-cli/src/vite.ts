import { spawn } from "node:child_process";
import { fileURLToPath } from "node:url";
import type { ErrorPayload, Plugin } from "vite";

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
  let root = options.folder;
  let isServed = false;
  return {
    name: "sleeve:generated-files",
    configResolved(config) {
      root ??= config.root;
      isServed = config.command === "serve";
    },
    async buildStart() {
      if (isServed) return;
      const { problems, stale } = await regenerate(root ?? ".", "--check");
      const [problem] = problems;
      if (problem) this.error(`${problem.message} [${problem.code}]`);
      if (stale.length > 0)
        this.error(`Generated files are stale: ${stale.join(", ")}. Run npx sleeve wrap --write.`);
    },
    configureServer(server) {
      let timer: NodeJS.Timeout | undefined;
      let running: Promise<void> = Promise.resolve();
      const refresh = async () => {
        const { problems } = await regenerate(root ?? ".", "--write");
        for (const problem of problems) server.ws.send(overlayOf(problem));
      };
      const later = (path: string) => {
        if (!/\.[cm]?tsx?$/.test(path)) return;
        clearTimeout(timer);
        timer = setTimeout(() => {
          // One after the other, because each takes the project's lock.
          running = running.then(refresh, refresh);
        }, SETTLE);
      };
      for (const event of ["change", "add", "unlink"] as const) server.watcher.on(event, later);
      server.httpServer?.once("close", () => clearTimeout(timer));
      running = refresh();
    },
  };
}

export interface GeneratedFilesOptions {
  /** The folder of the TypeScript project. Default: the root of the Vite project. */
  readonly folder?: string;
}

interface Regenerated {
  readonly problems: readonly { readonly code: string; readonly message: string }[];
  readonly stale: readonly string[];
}

/** Runs the command in a process of its own, so that the server keeps answering. */
function regenerate(folder: string, mode: "--check" | "--write"): Promise<Regenerated> {
  const command = fileURLToPath(new URL("./cli.js", import.meta.url));
  return new Promise((resolve, reject) => {
    const child = spawn(process.execPath, [command, "wrap", mode, "--json"], {
      cwd: folder,
      stdio: ["ignore", "pipe", "pipe"],
    });
    const [output, errors]: [Buffer[], Buffer[]] = [[], []];
    child.stdout.on("data", (part: Buffer) => output.push(part));
    child.stderr.on("data", (part: Buffer) => errors.push(part));
    child.on("error", reject);
    child.on("close", () => {
      const text = Buffer.concat(output).toString();
      if (text === "") {
        const message = Buffer.concat(errors).toString().trim();
        resolve({ problems: [{ code: "UNEXPECTED", message }], stale: [] });
        return;
      }
      const { wrappers, problems } = JSON.parse(text) as {
        readonly wrappers: readonly { readonly file: string; readonly state: string }[];
        readonly problems: Regenerated["problems"];
      };
      const stale = wrappers.flatMap(({ file, state }) => (state === "the same" ? [] : [file]));
      resolve({ problems, stale });
    });
  });
}

function overlayOf({ code, message }: Regenerated["problems"][number]): ErrorPayload {
  return {
    type: "error",
    err: { message: `${message} [${code}]`, stack: "", plugin: "sleeve:generated-files" },
  };
}
