import { statSync } from "node:fs";
import { basename, join, sep } from "node:path";
import { watch } from "chokidar";
import { CliError, type Problem } from "../errors.ts";
import type { Config } from "../project/config.ts";
import { type Checked, type CheckOptions, checkProject, configOf, openForCheck } from "./command.ts";
import { recordedFindingsIn } from "./recorded-findings.ts";

/** Receives the result of each check while watching, or the problem that prevented it. */
export interface WatchEvents {
  /** @param changed files saved since the last time; none at the start */
  readonly onChecked: (checked: Checked, changed: readonly string[], milliseconds: number) => void;
  readonly onProblem: (problem: Problem) => void;
  readonly clock: { now(): number };
}

/** Time to wait for further saves before checking, in milliseconds. Editors save several files at once. */
const SETTLE = 40;

/** Time after which the files of a check are looked at again, in milliseconds. */
const LOOK_AGAIN = 400;

type FileChange = "changed" | "created" | "deleted";

const IGNORED = /^(node_modules|\.git|\.hg|dist|coverage)$/;

/**
 * Checks a project, and again whenever a file is saved, until `signal` aborts. The compiler stays open and
 * receives only what has changed.
 *
 * @throws {CliError} as a check does, if the project cannot be opened
 */
export async function watchCheck(
  { folder, tsconfig, today }: CheckOptions,
  { onChecked, onProblem, clock }: WatchEvents,
  signal: AbortSignal,
): Promise<void> {
  let config = await configOf(folder, tsconfig);
  const open = () => openForCheck(folder, tsconfig, config);
  let project = open();
  const { root } = project;
  const checkAll = () => checkProject(project, config, { today, recorded: recordedFindingsIn(root) });
  const kinds = new Map<string, FileChange>();
  let timer: NodeJS.Timeout | undefined;
  let looking: NodeJS.Timeout | undefined;
  let fail: (error: unknown) => void = () => {};
  let running: Promise<void> = Promise.resolve();

  const note = (kind: FileChange, path: string): void => {
    if (!matters(path, root)) return;
    kinds.set(path, mergedChange(kinds.get(path), kind));
    clearTimeout(timer);
    timer = setTimeout(() => {
      running = running.then(check);
      running.catch(fail);
    }, SETTLE);
  };

  /** A file may have been read half-written, before its watcher was there to see the rest. */
  const lookAgain = (stamps: ReadonlyMap<string, string>): void => {
    clearTimeout(looking);
    looking = setTimeout(() => {
      for (const [path, stamp] of stamps) if (stampOf(path) !== stamp) note("changed", path);
    }, LOOK_AGAIN);
  };

  const check = async (): Promise<void> => {
    const start = clock.now();
    const batch = [...kinds];
    kinds.clear();
    lookAgain(new Map(batch.map(([path]) => [path, stampOf(path)])));
    try {
      if (batch.some(([path]) => isConfig(path, root))) {
        config = await freshConfig(folder, tsconfig, config, onProblem);
        project.close();
        project = open();
      } else {
        const of = (kind: FileChange) => batch.flatMap(([path, change]) => (change === kind ? [path] : []));
        project = project.after({ changed: of("changed"), created: of("created"), deleted: of("deleted") });
      }
      const changed = batch.map(([path]) => relativeTo(root, path)).sort();
      onChecked(checkAll(), changed, clock.now() - start);
    } catch (error) {
      if (!(error instanceof CliError)) throw error;
      onProblem(error);
    }
  };
  const watcher = watch(root, {
    ignoreInitial: true,
    ignored: (path) => path !== root && IGNORED.test(basename(path)),
  });
  try {
    // Watching starts before the first check, so that no save in between is missed.
    await new Promise<void>((resolve, reject) => watcher.once("ready", resolve).once("error", reject));
    const start = clock.now();
    onChecked(checkAll(), [], clock.now() - start);
    await new Promise<void>((resolve, reject) => {
      fail = reject;
      watcher.on("change", (path) => note("changed", path));
      watcher.on("add", (path) => note("created", path));
      watcher.on("unlink", (path) => note("deleted", path));
      watcher.on("error", reject);
      if (signal.aborted) resolve();
      signal.addEventListener("abort", () => resolve(), { once: true });
    });
  } finally {
    clearTimeout(timer);
    clearTimeout(looking);
    await watcher.close();
    await running.catch(() => {});
    project.close();
  }
}

/** If the config is invalid during an edit, the last valid one stays in force. */
async function freshConfig(
  folder: string,
  tsconfig: string | undefined,
  last: Config,
  onProblem: WatchEvents["onProblem"],
): Promise<Config> {
  try {
    return await configOf(folder, tsconfig);
  } catch (error) {
    if (!(error instanceof CliError)) throw error;
    onProblem(error);
    return last;
  }
}

/** What has happened to a file since the last check. One that is created and then written is new to the compiler. */
function mergedChange(before: FileChange | undefined, now: FileChange): FileChange {
  if (before === "created" && now === "changed") return "created";
  return before === "deleted" && now === "created" ? "changed" : now;
}

/** Identifies the content of a file, as far as its entry in the folder does. */
function stampOf(path: string): string {
  const stats = statSync(path, { throwIfNoEntry: false });
  return stats ? `${stats.mtimeMs} ${stats.size}` : "";
}

function matters(path: string, root: string): boolean {
  return /\.[cm]?[jt]sx?$/.test(path) || isConfig(path, root);
}

function isConfig(path: string, root: string): boolean {
  const name = basename(path);
  return (
    /^(ts|js)config.*\.json$/.test(name) || (path === join(root, name) && /^sleeve\.config\./.test(name))
  );
}

function relativeTo(root: string, path: string): string {
  return path.startsWith(root + sep)
    ? path
        .slice(root.length + 1)
        .split(sep)
        .join("/")
    : path;
}
