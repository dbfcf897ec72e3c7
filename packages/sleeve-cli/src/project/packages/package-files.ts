import { existsSync, readdirSync, readFileSync, statSync } from "node:fs";
import { join, relative, resolve, sep } from "node:path";
import { list } from "tar";
import { CliError } from "../../errors.ts";

/** The files of a package that is not installed. */
export interface GivenPackage {
  readonly name: string;
  readonly version: string | null;
  /** By path relative to its folder, with forward slashes. */
  readonly files: ReadonlyMap<string, string>;
  /** Paths of all its files, also of those that are not read. */
  readonly paths: ReadonlySet<string>;
}

/** Maximum size of all files that are read from a package, in bytes. */
const MAX_SIZE = 200_000_000;

interface ReadFiles {
  readonly files: Map<string, string>;
  readonly paths: Set<string>;
}

const READ = /(\.d\.[cm]?ts|\.[cm]?ts|(^|\/)package\.json)$/;

/**
 * Reads a package from a folder, or from a registry tarball.
 *
 * @throws {CliError} `NO_PACKAGE`
 */
export function readPackage(path: string): GivenPackage {
  const refuse = (what: string): never => {
    throw new CliError("NO_PACKAGE", `${path} ${what}. Pass the folder or the tarball of a package.`);
  };
  if (!existsSync(path)) return refuse("does not exist");
  const read = statSync(path).isDirectory() ? inFolder(resolve(path)) : inTarball(path);
  if (!read) return refuse(`has more than ${MAX_SIZE / 1_000_000} MB of declarations`);
  const { files, paths } = read;
  const manifest = files.get("package.json");
  if (manifest === undefined) return refuse("contains no package.json");
  const { name, version } = parsed(manifest);
  if (typeof name !== "string") return refuse("has a package.json without a name");
  return { name, version: typeof version === "string" ? version : null, files, paths };
}

function parsed(manifest: string): Readonly<Record<"name" | "version" | "exports" | "main", unknown>> {
  try {
    return JSON.parse(manifest) as ReturnType<typeof parsed>;
  } catch {
    return { name: undefined, version: undefined, exports: undefined, main: undefined };
  }
}

/**
 * Whether a version of a package has code for an import, by its manifest: `kit/fp` of `kit`. Types are another
 * question.
 */
export function hasCodeFor({ name, files, paths }: GivenPackage, specifier: string): boolean {
  const { exports, main } = parsed(files.get("package.json") ?? "");
  const within = specifier === name ? "." : `.${specifier.slice(name.length)}`;
  const has = (path: string) => {
    const plain = path.replace(/^\.\//, "").replace(/\/$/, "");
    const possiblePaths = ["", ".js", ".cjs", ".mjs", "/index.js"].map((ending) => `${plain}${ending}`);
    return possiblePaths.some((file) => paths.has(file) && !/\.d\.[cm]?ts$/.test(file));
  };
  const entry = typeof main === "string" ? main : "index.js";
  if (exports === undefined) return has(within === "." ? entry : within);
  return targetsOf(exports, within).some(has);
}

/** Returns all files that `exports` names for a subpath, whatever the condition. */
function targetsOf(exports: unknown, within: string): readonly string[] {
  if (typeof exports !== "object" || exports === null || Array.isArray(exports))
    return within === "." ? textsIn(exports) : [];
  const entries = Object.entries(exports as Record<string, unknown>);
  if (!entries.some(([key]) => key.startsWith("."))) return within === "." ? textsIn(exports) : [];
  return entries.flatMap(([key, value]) => {
    if (key === within) return textsIn(value);
    const [before, after] = key.split("*");
    const isPattern =
      after !== undefined && before !== undefined && within.startsWith(before) && within.endsWith(after);
    if (!isPattern) return [];
    const part = within.slice(before.length, within.length - after.length);
    return textsIn(value).map((text) => text.replaceAll("*", part));
  });
}

function textsIn(value: unknown): readonly string[] {
  if (typeof value === "string") return [value];
  return typeof value === "object" && value !== null ? Object.values(value).flatMap(textsIn) : [];
}

function inFolder(folder: string): ReadFiles | undefined {
  const files = new Map<string, string>();
  const paths = new Set<string>();
  let size = 0;
  const visit = (at: string): void => {
    for (const entry of readdirSync(at, { withFileTypes: true })) {
      const path = join(at, entry.name);
      if (entry.isDirectory()) {
        if (entry.name !== "node_modules") visit(path);
        continue;
      }
      const file = relative(folder, path).split(sep).join("/");
      paths.add(file);
      if (!READ.test(entry.name) || size > MAX_SIZE) continue;
      const text = readFileSync(path, "utf8");
      size += text.length;
      files.set(file, text);
    }
  };
  visit(folder);
  return size > MAX_SIZE ? undefined : { files, paths };
}

function inTarball(path: string): ReadFiles | undefined {
  const files = new Map<string, string>();
  const paths = new Set<string>();
  let size = 0;
  try {
    list({
      file: path,
      sync: true,
      onReadEntry: (entry) => {
        // The outermost folder of a tarball is the package's, whatever its name.
        const file = entry.path.split("/").slice(1).join("/");
        // A path that leads out of the package is not one of its files.
        if (file.split("/").includes("..")) return;
        paths.add(file);
        if (!READ.test(file)) return;
        const chunks: Buffer[] = [];
        entry.on("data", (chunk: Buffer) => {
          size += chunk.length;
          if (size <= MAX_SIZE) chunks.push(chunk);
        });
        entry.on("end", () => files.set(file, Buffer.concat(chunks).toString("utf8")));
      },
    });
  } catch {
    // A file that is not a tarball contains no package.json, which is reported.
  }
  return size > MAX_SIZE ? undefined : { files, paths };
}
