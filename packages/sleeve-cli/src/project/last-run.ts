import { hash } from "node:crypto";
import {
  closeSync,
  existsSync,
  fstatSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  renameSync,
  statSync,
  writeFileSync,
  writeSync,
} from "node:fs";
import { dirname, isAbsolute, join, sep } from "node:path";
import { configChain } from "../compiler/config-text.ts";
import { LOCKFILES } from "./lockfile.ts";
import type { ProjectFolder } from "./project.ts";

/** One of the project's own files that was changed since. */
export interface ChangedFile {
  readonly path: string;
  readonly before: string;
  readonly after: string;
}

/** What an earlier run came to, and what has changed since, which is nothing but the texts of files. */
export interface Recalled<Value> {
  readonly value: Value;
  readonly changed: readonly ChangedFile[];
}

/** What a run has read. */
export interface RunInputs {
  /** When it began, in milliseconds. What has been changed since is not known to be as it was read. */
  readonly startedAt: number;
  /** The project's own files, with their texts as they were read. */
  readonly sources: readonly { readonly path: string; readonly text: string }[];
  /** All files that the compiler has read. */
  readonly files: readonly string[];
}

/** Size, and when it was changed last, what it holds and all that is known of it. */
type Stamp = readonly [size: number, modified: number, touched: number];

/** A file of the project's own, and where in the texts its text stands. */
type Kept = readonly [stamp: Stamp, offset: number, length: number, digest: string];

interface Index<Value> {
  readonly format: number;
  /** Every file that counts, but for those of the project's own; `null` of one that there was none of. */
  readonly stamps: Readonly<Record<string, Stamp | null>>;
  /** When the folders of the project were changed last, and the sources in those that hold any. */
  readonly folders: Readonly<Record<string, readonly [modified: number, sources: readonly string[]]>>;
  /** The project's own files. */
  readonly own: Readonly<Record<string, Kept>>;
  readonly value: Value;
}

const FORMAT = 1;
/** Where more files than these have changed, all is done anew. */
const MOST_CHANGED = 50;
const NEVER: Stamp = [-1, 0, 0];
/** Stands for the size of a folder, of which it is told by what is in it. */
const FOLDER = -2;

/**
 * Keeps what a run came to beside the installed packages, in `node_modules/.cache/sleeve`, for the next one to begin from.
 * Where there are none, or nothing can be written there, nothing is kept; to delete it does no harm.
 */
export class LastRun<Value> {
  readonly #folder: ProjectFolder;
  readonly #base: string;

  /** The last run over a project that was asked for the same; `undefined` where there is no place to keep one. */
  static over<Value>(folder: ProjectFolder, asked: string): LastRun<Value> | undefined {
    const packages = packagesOver(folder.root);
    if (packages === undefined) return undefined;
    const name = hash("sha1", `${folder.root}\0${folder.tsconfig}\0${asked}`);
    return new LastRun(folder, join(packages, ".cache", "sleeve", name.slice(0, 20)));
  }

  private constructor(folder: ProjectFolder, base: string) {
    this.#folder = folder;
    this.#base = base;
  }

  /** What is kept, as far as nothing but texts has changed since. */
  recall(): Recalled<Value> | undefined {
    const index = this.#index();
    if (!index) return undefined;
    const { stamps, folders, own, value } = index;
    for (const [path, stamp] of Object.entries(stamps)) if (!isSame(stamp, stampOf(path))) return undefined;
    for (const [folder, [modified, sources]] of Object.entries(folders)) {
      const now = stampOf(folder);
      if (!now) return undefined;
      if (now[1] !== modified && !isSameList(sources, sourcesIn(folder))) return undefined;
    }
    const touched = Object.entries(own).filter(([path, [stamp]]) => !isSame(stamp, stampOf(path)));
    if (touched.length > MOST_CHANGED) return undefined;
    const changed: ChangedFile[] = [];
    for (const [path, kept] of touched) {
      const before = this.#textOf(kept);
      const after = textOf(path);
      if (before === undefined || after === undefined) return undefined;
      if (before !== after) changed.push({ path, before, after });
    }
    return { value, changed };
  }

  /** Keeps what a run came to. That nothing can be written is no failure. */
  keep(value: Value, inputs: RunInputs): void {
    const { sources, files, startedAt } = inputs;
    const { root } = this.#folder;
    const settled = (path: string): Stamp => settledStamp(path, startedAt);
    const texts: Buffer[] = [];
    let offset = 0;
    const own: Record<string, Kept> = {};
    for (const { path, text } of sources) {
      const bytes = Buffer.from(text, "utf8");
      own[path] = [settled(path), offset, bytes.length, digestOf(bytes)];
      texts.push(bytes);
      offset += bytes.length;
    }
    unlessRefused(() => {
      mkdirSync(dirname(this.#base), { recursive: true });
      const stamps: Record<string, Stamp | null> = {};
      // What is no path is the compiler's own.
      for (const path of files) if (!own[path] && isAbsolute(path)) stamps[path] = settled(path);
      for (const path of this.#circumstances(sources, files))
        stamps[path] = existsSync(path) ? settled(path) : null;
      const folders: Record<string, readonly [number, readonly string[]]> = {};
      const elsewhere = sources.map(({ path }) => dirname(path)).filter((each) => !within(root, each));
      for (const folder of new Set([...foldersIn(root), ...elsewhere]))
        folders[folder] = [stampOf(folder)?.[1] ?? 0, sourcesIn(folder)];
      // The texts first, as an index without its texts would be taken at its word.
      this.#write("texts", Buffer.concat(texts));
      this.#write("json", JSON.stringify({ format: FORMAT, stamps, folders, own, value }));
    });
  }

  /** Takes in what changed files have led to. */
  amend(value: Value, changed: readonly ChangedFile[], startedAt: number): void {
    const index = this.#index();
    if (!index) return;
    unlessRefused(() => {
      const texts = openSync(`${this.#base}.texts`, "a");
      try {
        let offset = fstatSync(texts).size;
        const own = { ...index.own };
        for (const { path, after } of changed) {
          const bytes = Buffer.from(after, "utf8");
          own[path] = [settledStamp(path, startedAt), offset, bytes.length, digestOf(bytes)];
          offset += writeSync(texts, bytes);
        }
        this.#write("json", JSON.stringify({ ...index, own, value }));
      } finally {
        closeSync(texts);
      }
    });
  }

  #index(): Index<Value> | undefined {
    try {
      const index = JSON.parse(readFileSync(`${this.#base}.json`, "utf8")) as Index<Value>;
      return index.format === FORMAT ? index : undefined;
    } catch {
      return undefined;
    }
  }

  /** The text that a file had; `undefined` where the texts hold something else there. */
  #textOf([, offset, length, digest]: Kept): string | undefined {
    const bytes = Buffer.alloc(length);
    try {
      const texts = openSync(`${this.#base}.texts`, "r");
      try {
        readSync(texts, bytes, 0, length, offset);
        return digestOf(bytes) === digest ? bytes.toString("utf8") : undefined;
      } finally {
        closeSync(texts);
      }
    } catch {
      return undefined;
    }
  }

  #write(ending: "texts" | "json", content: string | Buffer): void {
    const ready = `${this.#base}.${ending}.${process.pid}`;
    writeFileSync(ready, content);
    renameSync(ready, `${this.#base}.${ending}`);
  }

  /** Configs, manifests and lockfiles, and what tells that packages have been installed. */
  #circumstances(sources: RunInputs["sources"], files: readonly string[]): ReadonlySet<string> {
    const { root, tsconfig, madeUp } = this.#folder;
    const found = new Set<string>(madeUp === undefined ? configChain(tsconfig) : [tsconfig]);
    const folders = new Set(sources.map(({ path }) => dirname(path)).concat(root));
    for (const folder of folders) if (dirname(folder) !== folder) folders.add(dirname(folder));
    for (const folder of folders) {
      for (const name of ["package.json", ...LOCKFILES]) found.add(join(folder, name));
      for (const name of ["", ".package-lock.json", ".modules.yaml", ".yarn-state.yml"])
        found.add(join(folder, "node_modules", name));
    }
    for (const path of files) {
      const [manifest] = /^.*\/node_modules\/(?:@[^/]+\/)?[^/]+(?=\/)/.exec(path) ?? [];
      if (manifest !== undefined) found.add(join(manifest, "package.json"));
    }
    return found;
  }
}

/** Does what may be refused by the system: a folder that cannot be written to, a file that is gone by now. */
function unlessRefused(run: () => void): void {
  try {
    run();
  } catch (error) {
    if (!(error instanceof Error && "syscall" in error)) throw error;
  }
}

function within(root: string, folder: string): boolean {
  return folder === root || folder.startsWith(`${root}${sep}`);
}

/** The folder of installed packages that is nearest. */
function packagesOver(root: string): string | undefined {
  for (let folder = root; ; folder = dirname(folder)) {
    const packages = join(folder, "node_modules");
    if (statSync(packages, { throwIfNoEntry: false })?.isDirectory()) return packages;
    if (dirname(folder) === folder) return undefined;
  }
}

/** Every folder of a project, but for those of packages and those that are hidden. */
function foldersIn(root: string): readonly string[] {
  const found = [root];
  for (const folder of found)
    for (const entry of readdirSync(folder, { withFileTypes: true }))
      if (entry.isDirectory() && entry.name !== "node_modules" && !entry.name.startsWith("."))
        found.push(join(folder, entry.name));
  return found;
}

/** What is in a folder that can make a difference by being there: sources, and folders that may hold some. */
function sourcesIn(folder: string): readonly string[] {
  return readdirSync(folder, { withFileTypes: true })
    .filter(
      (each) => !each.name.startsWith(".") && (!each.isFile() || /\.([cm]?[jt]sx?|json)$/.test(each.name)),
    )
    .map(({ name }) => name)
    .sort();
}

function stampOf(path: string): Stamp | undefined {
  const found = statSync(path, { throwIfNoEntry: false });
  return found && [found.isDirectory() ? FOLDER : found.size, found.mtimeMs, found.ctimeMs];
}

/** The stamp of a file; one that no file has, where the file was changed when it may have been read already. */
function settledStamp(path: string, startedAt: number): Stamp {
  const stamp = stampOf(path);
  return stamp && (stamp[0] === FOLDER || Math.max(stamp[1], stamp[2]) < startedAt) ? stamp : NEVER;
}

function digestOf(bytes: Uint8Array): string {
  return hash("sha1", bytes, "base64url");
}

function isSame(left: Stamp | null, right: Stamp | undefined): boolean {
  if (left === null || right === undefined) return left === null && right === undefined;
  return left[0] === right[0] && left[1] === right[1] && left[2] === right[2];
}

function isSameList(left: readonly string[], right: readonly string[]): boolean {
  return left.length === right.length && left.every((each, at) => each === right[at]);
}

function textOf(path: string): string | undefined {
  try {
    return readFileSync(path, "utf8").replace(/^\uFEFF/, "");
  } catch {
    return undefined;
  }
}
