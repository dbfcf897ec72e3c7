import { createHash } from "node:crypto";
import {
  accessSync,
  chmodSync,
  closeSync,
  constants,
  copyFileSync,
  existsSync,
  fsyncSync,
  linkSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmdirSync,
  rmSync,
  statSync,
  unlinkSync,
  writeFileSync,
} from "node:fs";
import { dirname, join, relative, sep } from "node:path";
import { type StagedFiles, stagedFilesSchema } from "../../documents/staged-files-document.ts";
import { CliError, type Problem } from "../../errors.ts";
import { isWithin } from "./within.ts";

/** A file to write. */
export interface FileWrite {
  readonly path: string;
  /** Its expected current content; `undefined` if it does not exist yet. */
  readonly before: Uint8Array | undefined;
  readonly after: Uint8Array;
}

/** What happened to an interrupted run. */
export interface Recovery {
  /** Whether the project is as that run would have left it, or unchanged. */
  readonly project: "after" | "before";
  readonly files: readonly string[];
}

/** Returns the error for a project that cannot be written, because of permissions or a full disk. */
function writeFailure(root: string, error: unknown): CliError {
  const { code } = error as NodeJS.ErrnoException;
  const message =
    code === "ENOSPC" || code === "EDQUOT"
      ? `The disk of ${root} is full, so nothing was written. Free some space and run again.`
      : `${root} is not writable. Grant write permission on it and run again.`;
  return new CliError("NOT_WRITABLE", message, { cause: error });
}

const STATE = ".sleeve";

/**
 * Excludes concurrent writers of a project, and writes all files or none.
 *
 * New contents are staged under `.sleeve/`; then a manifest makes the run definite; then each file is
 * replaced. A run interrupted before the manifest has changed nothing; one interrupted after it is completed
 * by the next run.
 *
 * @throws {CliError} `BUSY`, `NOT_WRITABLE`
 */
export class Transaction {
  readonly #root: string;
  readonly #state: string;

  /** @throws {CliError} `BUSY`, `NOT_WRITABLE` */
  static begin(root: string): Transaction {
    const state = join(root, STATE);
    if (!isWithin(root, STATE))
      throw new CliError("NOT_WRITABLE", `${state} leads outside the project. Delete it and run again.`);
    try {
      mkdirSync(state, { recursive: true });
      claim(join(state, "lock"));
    } catch (error) {
      if (error instanceof CliError) throw error;
      throw writeFailure(root, error);
    }
    return new Transaction(root, state);
  }

  private constructor(root: string, state: string) {
    this.#root = root;
    this.#state = state;
  }

  /**
   * Completes, or discards, what an interrupted run left; `undefined` if there is nothing.
   *
   * @throws {CliError} `INTERRUPTED` if a file has changed since
   */
  recover(): Recovery | undefined {
    const run = this.#run;
    if (existsSync(this.#done)) {
      const files = manifestIn(this.#done);
      rmSync(this.#done, { recursive: true });
      return { project: "after", files: files.map(({ file }) => file) };
    }
    if (!existsSync(run)) return undefined;
    if (!existsSync(join(run, "manifest.json"))) {
      rmSync(run, { recursive: true });
      return { project: "before", files: [] };
    }
    const files = manifestIn(run);
    const outside = files.filter(({ file }) => !isWithin(this.#root, file));
    if (outside.length > 0)
      throw new CliError(
        "INTERRUPTED",
        `${STATE}/run would write ${outside.map(({ file }) => file).join(", ")}, outside the project, which sleeve never does. Delete ${STATE} and run again.`,
      );
    const changed = files.filter(({ file, before, after }) => {
      const now = hashOf(readIfThere(join(this.#root, file)));
      return now !== before && now !== after;
    });
    if (changed.length > 0) {
      const names = changed.map(({ file }) => file).join(", ");
      throw new CliError(
        "INTERRUPTED",
        `An earlier run was interrupted while writing, and ${names} has changed since. ` +
          `Its other files are staged in ${STATE}/run. Copy what you need, delete ${STATE}, and run again.`,
      );
    }
    this.#finish(files);
    return { project: "after", files: files.map(({ file }) => file) };
  }

  /** Writes all of the files, or none. @throws {CliError} `NOT_WRITABLE` */
  write(writes: readonly FileWrite[]): void {
    const files = writes.map(({ path, before, after }) => {
      // Writes the target of a symbolic link, and keeps the link.
      const real = existsSync(path) ? realpathSync(path) : path;
      requireWritable(this.#root, real, before);
      const mode = before === undefined ? 0o644 : statSync(real).mode & 0o7777;
      const file = relative(this.#root, real).split(sep).join("/");
      return { file, before: hashOf(before), after: hashOf(after) as string, mode };
    });
    const manifest = join(this.#run, "manifest.json");
    try {
      mkdirSync(this.#run, { recursive: true });
      writes.forEach(({ after }, index) => {
        writeDurably(join(this.#run, String(index)), after);
        chmodSync(join(this.#run, String(index)), files[index]?.mode ?? 0o644);
      });
      writeDurably(`${manifest}.new`, JSON.stringify({ files } satisfies StagedFiles, null, 2));
    } catch (error) {
      rmSync(this.#run, { recursive: true, force: true });
      throw writeFailure(this.#root, error);
    }
    withoutSignals(() => {
      renameSync(`${manifest}.new`, manifest);
      this.#finish(files);
    });
  }

  [Symbol.dispose](): void {
    rmSync(join(this.#state, "lock"), { force: true });
    for (const name of readdirSync(this.#state)) {
      // Left by a process that was killed while it took the lock.
      const [, owner] = /^lock\.(\d+)$/.exec(name) ?? [];
      if (owner !== undefined && !isRunning(Number(owner))) rmSync(join(this.#state, name), { force: true });
    }
    try {
      rmdirSync(this.#state);
    } catch {
      // It still contains something of an earlier run.
    }
  }

  get #run(): string {
    return join(this.#state, "run");
  }

  get #done(): string {
    return join(this.#state, "done");
  }

  #finish(files: StagedFiles["files"]): void {
    files.forEach(({ file }, index) => {
      const staged = join(this.#run, String(index));
      // A missing staged file has already replaced its target.
      if (existsSync(staged)) putInPlace(staged, join(this.#root, file));
    });
    // Renamed first, so that a partly removed folder is not taken for an interrupted run.
    renameSync(this.#run, this.#done);
    rmSync(this.#done, { recursive: true });
  }
}

/**
 * Checks that a file of a project can be written, and is as it was read.
 *
 * @param before its expected content; `undefined` if it does not exist
 * @throws {CliError} `NOT_WRITABLE`
 */
export function requireWritable(root: string, path: string, before: Uint8Array | undefined): void {
  const file = relative(root, path).split(sep).join("/");
  const refuse = (what: string): never => {
    throw new CliError("NOT_WRITABLE", `${file} ${what}. Nothing was written.`);
  };
  if (!isWithin(root, path)) refuse("leads outside the project");
  if (hashOf(readIfThere(path)) !== hashOf(before)) refuse("was changed while this command ran; run again");
  try {
    if (before !== undefined) accessSync(path, constants.W_OK);
    accessSync(nearestFolder(path), constants.W_OK);
  } catch {
    refuse("is not writable; grant write permission on it and its folder, and run again");
  }
}

/** Reports an interrupted run, for commands that do not write. */
export function interruptionIn(root: string): readonly Problem[] {
  if (!existsSync(join(root, STATE, "run", "manifest.json"))) return [];
  return [
    {
      code: "INTERRUPTED",
      message:
        "An earlier run was interrupted while writing, so some files are old and some new. " +
        "Repeat that command, which completes what it started.",
    },
  ];
}

function manifestIn(folder: string): StagedFiles["files"] {
  const path = join(folder, "manifest.json");
  const text = readIfThere(path);
  if (!text) return [];
  try {
    return stagedFilesSchema.parse(JSON.parse(text.toString("utf8"))).files;
  } catch (error) {
    throw new CliError(
      "INTERRUPTED",
      `${path} is not a list of files that sleeve wrote. Delete ${STATE} and run again.`,
      { cause: error },
    );
  }
}

function claim(lock: string): void {
  for (let attempt = 1; ; attempt++) {
    try {
      createWithContent(lock, String(process.pid));
      return;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== "EEXIST") throw error;
    }
    const owner = Number(readIfThere(lock)?.toString());
    if (isRunning(owner) || attempt > 3) {
      throw new CliError(
        "BUSY",
        `Another run of sleeve (process ${owner}) is writing to this project. Wait until it ends, and run again.`,
      );
    }
    rmSync(lock, { force: true });
  }
}

/**
 * Creates a file together with its content, so that no other process sees it empty. Throws `EEXIST` if it exists.
 *
 * Kept instead of a locking package: those take a lock for abandoned after a time without a heartbeat, while this one
 * names the process that holds it.
 */
function createWithContent(file: string, content: string): void {
  const draft = `${file}.${process.pid}`;
  writeFileSync(draft, content);
  try {
    linkSync(draft, file);
  } catch (error) {
    const { code = "" } = error as NodeJS.ErrnoException;
    // A file system without hard links.
    if (!/^(EPERM|ENOTSUP|ENOSYS|EOPNOTSUPP)$/.test(code)) throw error;
    writeFileSync(file, content, { flag: "wx" });
  } finally {
    rmSync(draft, { force: true });
  }
}

function isRunning(pid: number): boolean {
  if (!Number.isInteger(pid) || pid <= 0) return false;
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    // The lock exists and belongs to another process.
    return (error as NodeJS.ErrnoException).code === "EPERM";
  }
}

function putInPlace(staged: string, target: string): void {
  mkdirSync(dirname(target), { recursive: true });
  try {
    renameSync(staged, target);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "EXDEV") throw error;
    copyFileSync(staged, `${target}.new`);
    renameSync(`${target}.new`, target);
    unlinkSync(staged);
  }
}

function writeDurably(path: string, content: Uint8Array | string): void {
  const file = openSync(path, "w");
  try {
    writeFileSync(file, content);
    fsyncSync(file);
  } finally {
    closeSync(file);
  }
}

/** Termination signals wait for this. */
function withoutSignals(act: () => void): void {
  const wait = () => {};
  const signals = ["SIGINT", "SIGTERM", "SIGHUP"] as const;
  for (const signal of signals) process.on(signal, wait);
  try {
    act();
  } finally {
    for (const signal of signals) process.off(signal, wait);
  }
}

function nearestFolder(path: string): string {
  let folder = dirname(path);
  while (!existsSync(folder)) folder = dirname(folder);
  return folder;
}

function readIfThere(path: string): Buffer | undefined {
  try {
    return readFileSync(path);
  } catch {
    return undefined;
  }
}

function hashOf(content: Uint8Array | undefined): string | null {
  return content === undefined ? null : createHash("sha256").update(content).digest("hex");
}
