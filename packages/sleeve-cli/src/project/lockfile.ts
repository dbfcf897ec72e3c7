import { existsSync, readFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { parse } from "yaml";

/** One package as a lockfile has it. */
interface LockedPackage {
  readonly name: string;
  readonly version: string | undefined;
  /** Why it is deprecated, as far as the lockfile records that: those of npm and pnpm do. */
  readonly deprecated: string | undefined;
}

/** What a lockfile tells of packages, by their names. */
export type Lockfile = ReadonlyMap<string, readonly LockedPackage[]>;

/** The names that lockfiles have, the first found in a folder counts. */
export const LOCKFILES = ["package-lock.json", "pnpm-lock.yaml", "yarn.lock"] as const;

const READERS: Readonly<Record<(typeof LOCKFILES)[number], (text: string) => readonly LockedPackage[]>> = {
  "package-lock.json": readNpm,
  "pnpm-lock.yaml": readPnpm,
  "yarn.lock": readYarn,
};

/** The lockfile of the folder or of one above it. One that cannot be read tells nothing. */
export function lockfileOver(root: string): Lockfile {
  for (let folder = root; ; folder = dirname(folder)) {
    const name = LOCKFILES.find((each) => existsSync(join(folder, each)));
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

function byName(all: readonly LockedPackage[]): Lockfile {
  const found = new Map<string, LockedPackage[]>();
  for (const each of all) {
    const known = found.get(each.name);
    if (known) known.push(each);
    else found.set(each.name, [each]);
  }
  return found;
}

/** In the format that npm writes since its version 7. */
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

/** `  '@deck/kit@1.0.0(react@18.0.0)':`, and before version 9 with a slash first. */
const PNPM_ENTRY = /^ {2}'?\/?((?:@[^/\s]+\/)?[^@/\s'(]+)[@/]([^\s'(]+).*:\s*$/;

/** Block by block, of which few are looked into: such a file can have tens of thousands of lines. */
function readPnpm(text: string): readonly LockedPackage[] {
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

/** `"@deck/kit@^1.0.0", "@deck/kit@^1.2.0":`, and two lines on the version, in the formats of Yarn's versions. */
function readYarn(text: string): readonly LockedPackage[] {
  return text.split(/\n(?=\S)/).flatMap((block) => {
    const [, name] = /^"?((?:@[^/\s]+\/)?[^@\s"]+)@/.exec(block) ?? [];
    const [, version] = /^ {2}version:? "?([^"\s]+)"?\s*$/m.exec(block) ?? [];
    return name === undefined || version === undefined ? [] : [{ name, version, deprecated: undefined }];
  });
}

function textOf(value: unknown): string | undefined {
  return typeof value === "string" ? value : undefined;
}
