import { dirname, isAbsolute, join } from "node:path/posix";
import { moduleRecordOf } from "../parser/module-record.ts";

/** Reads a file of a package by its path relative to the package; `undefined` if it does not exist. */
export type ReadFile = (file: string) => string | undefined;

/** An entry point of a package. */
export interface EntryPoint {
  /** As clients import it: `.`, `./fp`. */
  readonly subpath: string;
  /** Its declaration file, relative to the package. */
  readonly file: string;
  /** Whether the manifest names only the code beside it. */
  readonly isGuessed: boolean;
}

type Found = Pick<EntryPoint, "file" | "isGuessed">;

/**
 * Returns the entry points that a manifest names, with their declaration files.
 *
 * @param list returns the declaration files of the package, for entry points with a pattern: `./*`
 */
export function entryPointsOf(
  manifest: Readonly<Record<string, unknown>>,
  list: () => readonly string[],
): readonly EntryPoint[] {
  const { exports, types, typings, main } = manifest;
  if (exports === undefined || exports === null) {
    const [declaration] = [types, typings, main].flatMap((file) => declarationOf(file) ?? []);
    return [{ subpath: ".", ...(declaration ?? { file: "index.d.ts", isGuessed: true }) }];
  }
  const isMap = typeof exports === "object" && Object.keys(exports).some((key) => key.startsWith("."));
  const entries = isMap ? Object.entries(exports) : [[".", exports] as const];
  return entries.flatMap(([subpath, target]) => {
    const declaration = declarationOf(target);
    if (!declaration) return [];
    return subpath.includes("*")
      ? matching(subpath, declaration.file, list())
      : [{ subpath, ...declaration }];
  });
}

/** Returns the entry points of a pattern, one for each declaration file that it matches. */
function matching(subpath: string, pattern: string, files: readonly string[]): readonly EntryPoint[] {
  const [start = "", end = ""] = pattern.split("*");
  return files
    .filter(
      (file) => file.length >= start.length + end.length && file.startsWith(start) && file.endsWith(end),
    )
    .map((file) => ({
      subpath: subpath.replace("*", file.slice(start.length, file.length - end.length)),
      file,
      isGuessed: false,
    }));
}

/** Returns the declaration file of an export target, whatever the condition. */
function declarationOf(target: unknown): Found | undefined {
  if (typeof target === "string") {
    const file = join(".", target);
    if (leadsOutside(file)) return undefined;
    if (/\.d\.[cm]?ts$/.test(file)) return { file, isGuessed: false };
    const beside = file.replace(/\.([cm]?)jsx?$/, ".d.$1ts");
    return beside === file ? undefined : { file: beside, isGuessed: true };
  }
  if (typeof target !== "object" || target === null) return undefined;
  const conditions = target as Readonly<Record<string, unknown>>;
  if ("types" in conditions) return declarationOf(conditions["types"]);
  return Object.values(conditions).flatMap((value) => declarationOf(value) ?? [])[0];
}

/** Returns declaration files with all files of the package that they import, by name. */
export function closureOf(
  entries: readonly string[],
  read: ReadFile,
  points: readonly EntryPoint[],
  packageName: unknown,
): ReadonlyMap<string, string> {
  const ownFile = new Map(
    points.map(({ subpath, file }) => [`${String(packageName)}${subpath.slice(1)}`, file]),
  );
  const files = new Map<string, string>();
  const waiting = [...entries];
  for (let file = waiting.pop(); file !== undefined; file = waiting.pop()) {
    const text = files.has(file) || leadsOutside(file) ? undefined : read(file);
    if (text === undefined) continue;
    files.set(file, text);
    for (const { specifier } of moduleRecordOf(file, text).sites) {
      const target = specifier.startsWith(".")
        ? declarationTargets(file, specifier).find((path) => !leadsOutside(path) && read(path) !== undefined)
        : ownFile.get(specifier);
      if (target !== undefined) waiting.push(target);
    }
  }
  return new Map([...files].sort(([left], [right]) => (left < right ? -1 : 1)));
}

/** Whether a path relative to the package leads out of it. */
function leadsOutside(path: string): boolean {
  return path === ".." || path.startsWith("../") || isAbsolute(path);
}

/** Returns the declaration files that a relative import in a file can lead to, in order. */
export function declarationTargets(file: string, specifier: string): readonly string[] {
  const path = join(dirname(file), specifier);
  if (/\.d\.[cm]?ts$/.test(path)) return [path];
  const [, stem = path, kind = ""] = /^(.*)\.([cm]?)[jt]sx?$/.exec(path) ?? [];
  return [`${stem}.d.${kind}ts`, `${path}.d.ts`, `${path}/index.d.ts`];
}
