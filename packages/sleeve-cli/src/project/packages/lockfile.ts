import { existsSync, readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join } from "node:path";

/** One package in a lockfile. */
interface LockedPackage {
  readonly name: string;
  readonly version: string | undefined;
  /** Its deprecation message, which lockfiles of npm and pnpm record. */
  readonly deprecated: string | undefined;
}

/** The packages in a lockfile, by name. */
export type Lockfile = ReadonlyMap<string, readonly LockedPackage[]>;

/** Names of lockfiles; the first one found in a folder is used. */
export const LOCKFILES = ["package-lock.json", "pnpm-lock.yaml", "yarn.lock"] as const;

const READERS: Readonly<Record<(typeof LOCKFILES)[number], (text: string) => readonly LockedPackage[]>> = {
  "package-lock.json": readNpm,
  "pnpm-lock.yaml": readPnpm,
  "yarn.lock": readYarn,
};

/** Loads a parser when it is first used. Most projects need none, and loading both takes a tenth of a short run. */
const require = createRequire(import.meta.url);

/** Returns the lockfile of a folder or of one above it. An unreadable one is ignored. */
export function lockfileOver(root: string): Lockfile {
  for (let folder = root; ; folder = dirname(folder)) {
    const name = LOCKFILES.find((item) => existsSync(join(folder, item)));
    if (name !== undefined) return byName(readersOf(name, join(folder, name)));
    if (dirname(folder) === folder) return new Map();
  }
}

function readersOf(name: (typeof LOCKFILES)[number], path: string): readonly LockedPackage[] {
  try {
    return READERS[name](readFileSync(path, "utf8"));
  } catch {
    return [];
  }
}

function byName(packages: readonly LockedPackage[]): Lockfile {
  const packagesByName = new Map<string, LockedPackage[]>();
  for (const item of packages) {
    const versions = packagesByName.get(item.name);
    if (versions) versions.push(item);
    else packagesByName.set(item.name, [item]);
  }
  return packagesByName;
}

/** The format that npm writes since version 7. */
function readNpm(text: string): readonly LockedPackage[] {
  const { packages = {} } = JSON.parse(text) as {
    packages?: Readonly<Record<string, { readonly version?: unknown; readonly deprecated?: unknown }>>;
  };
  return Object.entries(packages).flatMap(([path, { version, deprecated }]) => {
    const at = path.lastIndexOf("node_modules/");
    const name = path.slice(at + "node_modules/".length);
    return at < 0 ? [] : [{ name, version: textOf(version), deprecated: textOf(deprecated) }];
  });
}

/** `  '@deck/kit@1.0.0(react@18.0.0)':`, and before version 9 with a leading slash. */
const PNPM_ENTRY = /^ {2}'?\/?((?:@[^/\s]+\/)?[^@/\s'(]+)[@/]([^\s'(]+).*:\s*$/;

/** Reads blocks on demand: such a file can have tens of thousands of lines. */
function readPnpm(text: string): readonly LockedPackage[] {
  const { parse } = require("yaml") as typeof import("yaml");
  const start = text.search(/^packages:\s*$/m);
  if (start < 0) return [];
  const [section = ""] = text.slice(start).split(/\n(?=[^\s])/, 1);
  return section.split(/\n(?= {2}\S)/).flatMap((block) => {
    const [, name, version] = PNPM_ENTRY.exec(block.split("\n", 1)[0] ?? "") ?? [];
    if (name === undefined) return [];
    const [entry] = /^ {4}deprecated:/m.test(block) ? Object.values(parse(block) as object) : [];
    const { deprecated } = (entry ?? {}) as { readonly deprecated?: unknown };
    return [{ name, version, deprecated: textOf(deprecated) }];
  });
}

/** `"@deck/kit@^1.0.0", "@deck/kit@^1.2.0":`, followed by the version, in the formats of all Yarn versions. */
function readYarn(text: string): readonly LockedPackage[] {
  const { parseSyml } = require("@yarnpkg/parsers") as typeof import("@yarnpkg/parsers");
  const entries = parseSyml(text) as Readonly<Record<string, { readonly version?: unknown }>>;
  return Object.entries(entries).flatMap(([descriptors, entry]) => {
    const [, name] = /^((?:@[^/\s]+\/)?[^@\s]+)@/.exec(descriptors) ?? [];
    const version = textOf(entry.version);
    return name === undefined || version === undefined ? [] : [{ name, version, deprecated: undefined }];
  });
}

function textOf(value: unknown): string | undefined {
  return typeof value === "string" ? value : undefined;
}
