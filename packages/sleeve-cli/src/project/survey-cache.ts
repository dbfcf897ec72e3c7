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
import { configChain } from "../compiler/settings/config-text.ts";
import { LOCKFILES } from "./packages/lockfile.ts";
import type { ProjectFolder } from "./project.ts";

/** One of the project's own files that has changed since the cached run. */
export interface ChangedFile {
  readonly path: string;
  readonly before: string;
  readonly after: string;
}

/** The result of an earlier run, and the files whose texts have changed since. */
export interface CachedRun<Value> {
  readonly value: Value;
  readonly changed: readonly ChangedFile[];
}

/** The inputs of a run. */
export interface RunInputs {
  /** Its start, in milliseconds. A file changed later may not be as it was read. */
  readonly startedAt: number;
  /** The project's own files, with their texts. */
  readonly sources: readonly { readonly path: string; readonly text: string }[];
  /** All files that the compiler read. */
  readonly files: readonly string[];
}

/** Size and modification time of a file. */
type FileStamp = readonly [size: number, modified: number, touched: number];

/** A cached file of the project, with the range of its text. */
type CachedFile = readonly [stamp: FileStamp, offset: number, length: number, digest: string];

interface Index<Value> {
  readonly format: number;
  /** All other relevant files; `null` for one that did not exist. */
  readonly stamps: Readonly<Record<string, FileStamp | null>>;
  /** Modification times of the project's folders, and the sources in each. */
  readonly folders: Readonly<Record<string, readonly [modified: number, sources: readonly string[]]>>;
  /** The project's own files. */
  readonly own: Readonly<Record<string, CachedFile>>;
  readonly value: Value;
}

const FORMAT = 2;
/** If more files than this have changed, everything is computed again. */
const MOST_CHANGED = 50;
const NEVER: FileStamp = [-1, 0, 0];
/** The size recorded for a folder, whose entries are recorded separately. */
const FOLDER = -2;

/**
 * Stores the result of a run next to the installed packages, in `node_modules/.cache/sleeve`, for the next
 * run. If that folder is missing or read-only, nothing is stored. Deleting it is safe.
 */
export class SurveyCache<Value> {
  readonly #folder: ProjectFolder;
  readonly #base: string;

  /** Returns the cache of a project for one set of options; `undefined` if there is no folder for it. */
  static over<Value>(folder: ProjectFolder, request: string): SurveyCache<Value> | undefined {
    const packages = packagesOver(folder.root);
    if (packages === undefined) return undefined;
    const name = hash("sha1", `${folder.root}\0${folder.tsconfig}\0${request}`);
    return new SurveyCache(folder, join(packages, ".cache", "sleeve", name.slice(0, 20)));
  }

  private constructor(folder: ProjectFolder, base: string) {
    this.#folder = folder;
    this.#base = base;
  }

  /** Returns the stored result if only texts have changed since. */
  load(): CachedRun<Value> | undefined {
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
    for (const [path, stamp] of touched) {
      const before = this.#textOf(stamp);
      const after = textOf(path);
      if (before === undefined || after === undefined) return undefined;
      if (before !== after) changed.push({ path, before, after });
    }
    return { value, changed };
  }

  /** Stores the result of a run. A failed write is ignored. */
  store(value: Value, inputs: RunInputs): void {
    const { sources, files, startedAt } = inputs;
    const { root } = this.#folder;
    const settled = (path: string): FileStamp => settledStamp(path, startedAt);
    const texts: Buffer[] = [];
    let offset = 0;
    const cachedFiles: Record<string, CachedFile> = {};
    for (const { path, text } of sources) {
      const bytes = Buffer.from(text, "utf8");
      cachedFiles[path] = [settled(path), offset, bytes.length, digestOf(bytes)];
      texts.push(bytes);
      offset += bytes.length;
    }
    ignoringAccessErrors(() => {
      mkdirSync(dirname(this.#base), { recursive: true });
      const stamps: Record<string, FileStamp | null> = {};
      // Entries that are not paths belong to the compiler.
      for (const path of files) if (!cachedFiles[path] && isAbsolute(path)) stamps[path] = settled(path);
      for (const path of this.#environment(sources, files))
        stamps[path] = existsSync(path) ? settled(path) : null;
      const folders: Record<string, readonly [number, readonly string[]]> = {};
      const elsewhere = sources.map(({ path }) => dirname(path)).filter((name) => !within(root, name));
      for (const folder of new Set([...foldersIn(root), ...elsewhere]))
        folders[folder] = [stampOf(folder)?.[1] ?? 0, sourcesIn(folder)];
      // Texts are written first, because an index without its texts would be trusted.
      this.#write("texts", Buffer.concat(texts));
      this.#write("json", JSON.stringify({ format: FORMAT, stamps, folders, own: cachedFiles, value }));
    });
  }

  /** Updates the stored result after changes. */
  update(value: Value, changed: readonly ChangedFile[], startedAt: number): void {
    const index = this.#index();
    if (!index) return;
    ignoringAccessErrors(() => {
      const texts = openSync(`${this.#base}.texts`, "a");
      try {
        let offset = fstatSync(texts).size;
        const cachedFiles = { ...index.own };
        for (const { path, after } of changed) {
          const bytes = Buffer.from(after, "utf8");
          cachedFiles[path] = [settledStamp(path, startedAt), offset, bytes.length, digestOf(bytes)];
          offset += writeSync(texts, bytes);
        }
        this.#write("json", JSON.stringify({ ...index, own: cachedFiles, value }));
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

  /** Returns the earlier text of a file; `undefined` if the stored text differs. */
  #textOf([, offset, length, digest]: CachedFile): string | undefined {
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

  /** Configs, manifests, lockfiles, and files that show that packages were installed. */
  #environment(sources: RunInputs["sources"], files: readonly string[]): ReadonlySet<string> {
    const { root, tsconfig, generatedConfig } = this.#folder;
    const configPaths = new Set<string>(generatedConfig === undefined ? configChain(tsconfig) : [tsconfig]);
    const folders = new Set(sources.map(({ path }) => dirname(path)).concat(root));
    for (const folder of folders) if (dirname(folder) !== folder) folders.add(dirname(folder));
    for (const folder of folders) {
      for (const name of ["package.json", ...LOCKFILES]) configPaths.add(join(folder, name));
      for (const name of ["", ".package-lock.json", ".modules.yaml", ".yarn-state.yml"])
        configPaths.add(join(folder, "node_modules", name));
    }
    for (const path of files) {
      const [manifest] = /^.*\/node_modules\/(?:@[^/]+\/)?[^/]+(?=\/)/.exec(path) ?? [];
      if (manifest !== undefined) configPaths.add(join(manifest, "package.json"));
    }
    return configPaths;
  }
}

/** Ignores file system errors: a read-only folder, a file that is gone. */
function ignoringAccessErrors(run: () => void): void {
  try {
    run();
  } catch (error) {
    if (!(error instanceof Error && "syscall" in error)) throw error;
  }
}

function within(root: string, folder: string): boolean {
  return folder === root || folder.startsWith(`${root}${sep}`);
}

/** Returns the nearest folder of installed packages. */
function packagesOver(root: string): string | undefined {
  for (let folder = root; ; folder = dirname(folder)) {
    const packages = join(folder, "node_modules");
    if (statSync(packages, { throwIfNoEntry: false })?.isDirectory()) return packages;
    if (dirname(folder) === folder) return undefined;
  }
}

/** Returns every folder of a project, except packages and hidden ones. */
function foldersIn(root: string): readonly string[] {
  const folders = [root];
  for (const folder of folders)
    for (const entry of readdirSync(folder, { withFileTypes: true }))
      if (entry.isDirectory() && entry.name !== "node_modules" && !entry.name.startsWith("."))
        folders.push(join(folder, entry.name));
  return folders;
}

/** Returns the relevant entries of a folder: sources, and folders that may contain some. */
function sourcesIn(folder: string): readonly string[] {
  return readdirSync(folder, { withFileTypes: true })
    .filter(
      (dirent) =>
        !dirent.name.startsWith(".") && (!dirent.isFile() || /\.([cm]?[jt]sx?|json)$/.test(dirent.name)),
    )
    .map(({ name }) => name)
    .sort();
}

function stampOf(path: string): FileStamp | undefined {
  const stats = statSync(path, { throwIfNoEntry: false });
  return stats && [stats.isDirectory() ? FOLDER : stats.size, stats.mtimeMs, stats.ctimeMs];
}

/** Returns the stamp of a file, or one that never matches if the file may have changed during the run. */
function settledStamp(path: string, startedAt: number): FileStamp {
  const stamp = stampOf(path);
  return stamp && (stamp[0] === FOLDER || Math.max(stamp[1], stamp[2]) < startedAt) ? stamp : NEVER;
}

function digestOf(bytes: Uint8Array): string {
  return hash("sha1", bytes, "base64url");
}

function isSame(before: FileStamp | null, right: FileStamp | undefined): boolean {
  if (before === null || right === undefined) return before === null && right === undefined;
  return before[0] === right[0] && before[1] === right[1] && before[2] === right[2];
}

function isSameList(before: readonly string[], right: readonly string[]): boolean {
  return before.length === right.length && before.every((leftItem, at) => leftItem === right[at]);
}

function textOf(path: string): string | undefined {
  try {
    return readFileSync(path, "utf8").replace(/^\uFEFF/, "");
  } catch {
    return undefined;
  }
}
