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
  const files = statSync(path).isDirectory() ? inFolder(resolve(path)) : inTarball(path);
  const manifest = files.get("package.json");
  if (manifest === undefined) return refuse("contains no package.json");
  const { name, version } = parsed(manifest);
  if (typeof name !== "string") return refuse("has a package.json without a name");
  return { name, version: typeof version === "string" ? version : null, files };
}

function parsed(manifest: string): { readonly name?: unknown; readonly version?: unknown } {
  try {
    return JSON.parse(manifest) as { name?: unknown; version?: unknown };
  } catch {
    return {};
  }
}

function inFolder(folder: string): ReadonlyMap<string, string> {
  const files = new Map<string, string>();
  const visit = (at: string): void => {
    for (const entry of readdirSync(at, { withFileTypes: true })) {
      const path = join(at, entry.name);
      if (entry.isDirectory()) {
        if (entry.name !== "node_modules") visit(path);
      } else if (READ.test(entry.name))
        files.set(relative(folder, path).split(sep).join("/"), readFileSync(path, "utf8"));
    }
  };
  visit(folder);
  return files;
}

function inTarball(path: string): ReadonlyMap<string, string> {
  const files = new Map<string, string>();
  try {
    list({
      file: path,
      sync: true,
      onReadEntry: (entry) => {
        // The outermost folder of a tarball is the package's, whatever its name.
        const file = entry.path.split("/").slice(1).join("/");
        if (!READ.test(file)) return;
        const chunks: Buffer[] = [];
        entry.on("data", (chunk: Buffer) => chunks.push(chunk));
        entry.on("end", () => files.set(file, Buffer.concat(chunks).toString("utf8")));
      },
    });
  } catch {
    // A file that is not a tarball contains no package.json, which is reported.
  }
  return files;
}
