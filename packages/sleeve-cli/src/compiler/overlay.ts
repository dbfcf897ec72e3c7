import { readdirSync, statSync } from "node:fs";
import { basename, dirname, join } from "node:path";
import type { FileSystem } from "./typescript.ts";

/** Overlay files that the compiler sees instead of those on disk. */
export class FileShadow {
  /** `null` hides a file. */
  readonly #texts = new Map<string, string | null>();
  readonly #folders = new Map<string, Set<string>>();
  #isHidden: (path: string) => boolean = () => false;

  readonly fileSystem: FileSystem = {
    readFile: (path) => (this.#isHidden(path) ? null : this.#texts.get(path)),
    fileExists: (path) => {
      if (this.#isHidden(path)) return false;
      const text = this.#texts.get(path);
      return text === undefined ? undefined : text !== null;
    },
    directoryExists: (path) => {
      if (this.#isHidden(path)) return false;
      return this.#folders.has(path) ? true : undefined;
    },
    getAccessibleEntries: (path) => this.#entriesOf(path),
  };

  /** Hides files and folders from the compiler, instead of those that are hidden. */
  hide(isHidden: (path: string) => boolean): void {
    this.#isHidden = isHidden;
  }

  paths(): Iterable<string> {
    return this.#texts.keys();
  }

  textOf(path: string): string | null | undefined {
    return this.#texts.get(path);
  }

  has(path: string): boolean {
    return this.#texts.has(path);
  }

  set(path: string, text: string | null): void {
    this.#texts.set(path, text);
    for (let child = path; dirname(child) !== child; child = dirname(child)) {
      const folder = dirname(child);
      const entries = this.#folders.get(folder);
      if (entries) entries.add(basename(child));
      else this.#folders.set(folder, new Set([basename(child)]));
    }
  }

  delete(path: string): void {
    this.#texts.delete(path);
    // A folder without overlay files is that of the disk again.
    for (let child = path; dirname(child) !== child; child = dirname(child)) {
      const folder = dirname(child);
      const names = this.#folders.get(folder);
      names?.delete(basename(child));
      if (!names || names.size > 0) return;
      this.#folders.delete(folder);
    }
  }

  #entriesOf(folder: string): { files: string[]; directories: string[] } | undefined {
    if (this.#isHidden(folder)) return { files: [], directories: [] };
    const added = this.#folders.get(folder);
    if (!added) return undefined;
    const files = new Set<string>();
    const directories = new Set<string>();
    try {
      for (const entry of readdirSync(folder, { withFileTypes: true })) {
        const isFolder = entry.isSymbolicLink()
          ? statSync(join(folder, entry.name), { throwIfNoEntry: false })?.isDirectory()
          : entry.isDirectory();
        (isFolder ? directories : files).add(entry.name);
      }
    } catch {
      // A folder that exists only in the overlay.
    }
    for (const name of added) {
      const text = this.#texts.get(`${folder}/${name}`);
      if (text === null) files.delete(name);
      else (text === undefined ? directories : files).add(name);
    }
    return { files: [...files].sort(), directories: [...directories].sort() };
  }
}
