import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, relative, sep } from "node:path";
import { compileDeclarations } from "../compiler/compile-declarations.ts";
import { configFilesOf } from "../compiler/settings/configs.ts";
import type { ExportsRecord } from "../documents/exports-document.ts";
import { CliError } from "../errors.ts";
import type { GivenPackage } from "../project/packages/package-files.ts";
import { manifestAt } from "../project/packages/packages.ts";
import { isWithin } from "../project/writing/within.ts";
import { closureOf, entryPointsOf } from "./entry-points.ts";

type Manifest = Readonly<Record<string, unknown>>;

/**
 * Returns the declarations of a project's entry points: those of the named source files, which are compiled, or
 * those that the manifest names, which must have been built.
 *
 * @throws {CliError} `NOT_BUILT`, `NO_SUCH_FILE`, `DOES_NOT_COMPILE`
 */
export function ownDeclarations(root: string, tsconfig: string, sources: readonly string[]): ExportsRecord {
  const manifest = manifestAt(join(root, "package.json")) ?? {};
  const read = (file: string) => textAt(join(root, file));
  if (sources.length > 0) {
    const { entries, files } = compiled(root, tsconfig, sources);
    return {
      ...identityOf(manifest),
      entries,
      files: { "package.json": relevantManifest(manifest), ...files },
    };
  }
  const named = entryPointsOf(manifest, () => declarationsIn(root));
  // An entry point without types has nothing to compare.
  const points = named.filter(({ file, isGuessed }) => !isGuessed || read(file) !== undefined);
  const missing = points.find(({ file }) => read(file) === undefined);
  if (missing || points.length === 0)
    throw new CliError(
      "NOT_BUILT",
      missing
        ? `${missing.file}, the types of the entry point ${missing.subpath}, does not exist. Build the project, or name its source files with --entry.`
        : "package.json names no entry point with types. Build the project, or name its source files with --entry.",
    );
  return recordOf(manifest, points, read);
}

/** Returns the declarations of the entry points of a published version. */
export function publishedDeclarations({ files }: GivenPackage): ExportsRecord {
  const manifest = JSON.parse(files.get("package.json") ?? "{}") as Manifest;
  const points = entryPointsOf(manifest, () => [...files.keys()]).filter(({ file }) => files.has(file));
  return recordOf(manifest, points, (file) => files.get(file));
}

function recordOf(
  manifest: Manifest,
  points: ReturnType<typeof entryPointsOf>,
  read: (file: string) => string | undefined,
): ExportsRecord {
  const files = closureOf(
    points.map(({ file }) => file),
    read,
    points,
    manifest["name"],
  );
  return {
    ...identityOf(manifest),
    entries: Object.fromEntries(points.map(({ subpath, file }) => [subpath, file])),
    files: { "package.json": relevantManifest(manifest), ...Object.fromEntries(files) },
  };
}

function identityOf({ name, version }: Manifest) {
  return {
    name: typeof name === "string" ? name : null,
    version: typeof version === "string" ? version : null,
  };
}

/** Returns the fields of a manifest by which the compiler reads declarations. */
function relevantManifest({ name, type, exports, imports, types, typings, main }: Manifest): string {
  return JSON.stringify({ name, type, exports, imports, types, typings, main });
}

/** Compiles declarations of source files into a temporary folder. */
function compiled(
  root: string,
  tsconfig: string,
  named: readonly string[],
): Pick<ExportsRecord, "entries" | "files"> {
  for (const file of named)
    if (!isWithin(root, file) || statSync(join(root, file), { throwIfNoEntry: false })?.isFile() !== true)
      throw new CliError(
        "NO_SUCH_FILE",
        `There is no file ${file} in the project. Pass its path relative to ${root}.`,
      );
  const [oldSetting] = configFilesOf(tsconfig, undefined).settings;
  if (oldSetting !== undefined)
    throw new CliError(
      "NOT_BUILT",
      `The compiler no longer takes the setting \`${oldSetting}\`. Build the project with its own compiler, and run without --entry.`,
    );
  const folder = mkdtempSync(join(tmpdir(), "sleeve-exports-"));
  try {
    const errors = compileDeclarations(root, tsconfig, folder);
    const read = (file: string) => textAt(join(folder, file));
    const entries = named.map((file) => {
      const plain = relative(root, join(root, file)).split(sep).join("/");
      return [plain, plain.replace(/\.([cm]?)[jt]sx?$/, ".d.$1ts")] as const;
    });
    const missing = entries.find(([, file]) => read(file) === undefined);
    if (missing) {
      const [firstError = "the compiler gives no reason"] = errors;
      throw new CliError(
        "DOES_NOT_COMPILE",
        `No declarations of ${missing[0]} can be compiled: ${firstError.replace(/\.$/, "")}. Correct it, or include the file in the compiler's config, and run again.`,
      );
    }
    const files = closureOf(
      entries.map(([, file]) => file),
      read,
      [],
      undefined,
    );
    return { entries: Object.fromEntries(entries), files: Object.fromEntries(files) };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

/** Returns the declaration files in a folder, except those of installed packages. */
function declarationsIn(root: string, folder = ""): readonly string[] {
  return readdirSync(join(root, folder), { withFileTypes: true }).flatMap((entry) => {
    const path = folder === "" ? entry.name : `${folder}/${entry.name}`;
    if (entry.isDirectory())
      return entry.name === "node_modules" || entry.name.startsWith(".") ? [] : declarationsIn(root, path);
    return /\.d\.[cm]?ts$/.test(entry.name) ? [path] : [];
  });
}

function textAt(path: string): string | undefined {
  return existsSync(path) ? readFileSync(path, "utf8") : undefined;
}
