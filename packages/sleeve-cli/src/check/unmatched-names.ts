import { existsSync } from "node:fs";
import { dirname, join } from "node:path";
import type { Finding } from "../documents/check-document.ts";
import { nearestName } from "../nearest-name.ts";
import { Lines } from "../place.ts";
import type { Config } from "../project/config.ts";
import type { OpenProject } from "../project/open-project.ts";
import { builtInOf, manifestAt, Packages } from "../project/packages/packages.ts";
import { pathMatches } from "../project/path-match.ts";

/** The config as it is written. */
export interface ConfigText {
  readonly file: string;
  readonly text: string;
}

/** A name in the config, and what it can be the name of. */
interface ConfigName {
  readonly setting: string;
  readonly name: string;
  readonly kind: "package" | "path" | "wrapper";
  /** Whether nothing has to have this name: a border that no file may cross keeps a package out. */
  readonly isPrevention?: boolean;
}

/** Returns a finding for each name in the config that matches nothing: a package, a path, or a facade. */
export function unmatchedNames(
  project: OpenProject,
  config: Config,
  { file, text }: ConfigText,
): readonly Finding[] {
  const candidates = {
    package: packageNames(project, config),
    path: project.sources.map((source) => source.file),
    wrapper: Object.values(config.targets ?? {}).flat(),
  };
  const lines = new Lines(text);
  return namesIn(config).flatMap(({ setting, name, kind, isPrevention }): readonly Finding[] => {
    if (isKnown(project, kind, name, candidates[kind])) return [];
    const similar = nearestName(name, candidates[kind]);
    if (isPrevention && similar === undefined) return [];
    return [
      {
        name: "unmatched",
        member: null,
        place: { file, ...lines.at(offsetOf(text, setting, name)) },
        expected: EXPECTED[kind],
        found: `${name} under \`${setting}\`, which matches nothing`,
        remedy: similar === undefined ? "Correct the name, or remove it." : `Did you mean ${similar}?`,
      },
    ];
  });
}

const EXPECTED: Readonly<Record<ConfigName["kind"], string>> = {
  package: "an outside module that the project imports or has installed",
  path: "a file of the project, or a folder with a trailing slash",
  wrapper: "a wrapper that is listed under `targets`",
};

function namesIn({
  borders = {},
  isolated = {},
  severities = {},
  legacy = [],
  facades = [],
}: Config): readonly ConfigName[] {
  const paths = Object.values(severities).flatMap((severity) =>
    typeof severity === "object" ? Object.keys(severity).filter((path) => path !== "*") : [],
  );
  return [
    ...Object.entries(borders).map(([name, files]): ConfigName => {
      return { setting: "borders", name, kind: "package", isPrevention: files.length === 0 };
    }),
    ...Object.keys(isolated).map((name): ConfigName => ({ setting: "isolated", name, kind: "package" })),
    ...paths.map((name): ConfigName => ({ setting: "severities", name, kind: "path" })),
    ...legacy.map((name): ConfigName => ({ setting: "legacy", name, kind: "path" })),
    ...facades.map((name): ConfigName => ({ setting: "facades", name, kind: "wrapper" })),
  ];
}

function isKnown(
  { root, sources }: OpenProject,
  kind: ConfigName["kind"],
  name: string,
  candidates: readonly string[],
): boolean {
  switch (kind) {
    case "package":
      return (
        candidates.includes(name) ||
        builtInOf(name) === name ||
        new Packages().find(name, join(root, "package.json")) !== undefined
      );
    case "path":
      return sources.some(({ file }) => pathMatches(name, file)) || existsSync(join(root, name));
    case "wrapper":
      return candidates.includes(name);
  }
}

/** Returns the modules that are imported, declared as legacy, or requested by a manifest in or above the project. */
function packageNames({ root, packages }: OpenProject, { legacy = [] }: Config): readonly string[] {
  const requested: string[] = [];
  for (let folder = root; ; folder = dirname(folder)) {
    const manifest = manifestAt(join(folder, "package.json")) ?? {};
    for (const list of MANIFEST_LISTS) requested.push(...Object.keys(manifest[list] ?? {}));
    if (dirname(folder) === folder) break;
  }
  return [...new Set([...packages.map(({ name }) => name), ...legacy, ...requested])];
}

const MANIFEST_LISTS = ["dependencies", "devDependencies", "peerDependencies", "optionalDependencies"];

/** Returns where a setting contains a name, or else the start of the text. */
function offsetOf(text: string, setting: string, name: string): number {
  const from = Math.max(0, text.indexOf(setting));
  for (const form of [JSON.stringify(name), `'${name}'`, `\`${name}\``, `${name}:`]) {
    const at = text.indexOf(form, from);
    if (at >= 0) return at;
  }
  return 0;
}
