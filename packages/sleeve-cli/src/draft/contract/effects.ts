import { readFileSync } from "node:fs";
import { dirname } from "node:path";
import { ResolverFactory } from "oxc-resolver";
import { moduleRecordOf } from "../../parser/module-record.ts";
import { builtInOf } from "../../project/packages/packages.ts";

/** Something outside the program that a module can reach. */
export type Effect = "opens connections" | "uses files" | "starts processes";

const EFFECTS: ReadonlyMap<string, Effect> = new Map([
  ...["net", "tls", "http", "https", "http2", "dgram", "dns"].map(
    (name) => [`node:${name}`, "opens connections"] as const,
  ),
  ["node:fs", "uses files"],
  ["node:fs/promises", "uses files"],
  ["node:child_process", "starts processes"],
  ["node:cluster", "starts processes"],
  ["node:worker_threads", "starts processes"],
]);

/** Names of the platform that open connections, in the text of a module. */
const CONNECTS = /\b(?:XMLHttpRequest|WebSocket|EventSource)\b|(?<![.\w])fetch\s*\(/;

/** First words of functions that change files. */
const CHANGES: ReadonlySet<string> = new Set(
  "append chmod copy delete link mkdir move remove rename rm symlink touch truncate unlink watch write".split(
    " ",
  ),
);
/** Functions that end or start something. */
const ENDS: ReadonlySet<string> = new Set(
  "abort close connect exec exit fork kill listen send spawn".split(" "),
);

const MOST_FILES = 300;

/** Returns what modules can reach outside the program, from the imports of their files and of those that these import. */
export function effectsOf(specifiers: readonly string[], importer: string): ReadonlySet<Effect> {
  const resolver = new ResolverFactory({
    conditionNames: ["node", "import", "require", "default"],
    extensions: [".js", ".mjs", ".cjs", ".json", ".ts"],
  });
  const effects = new Set<Effect>();
  const visited = new Set<string>();
  const waiting = specifiers.map((specifier) => ({ specifier, importer }));
  for (let next = waiting.pop(); next && visited.size < MOST_FILES; next = waiting.pop()) {
    const builtIn = builtInOf(next.specifier);
    const effect = builtIn === undefined ? undefined : EFFECTS.get(builtIn);
    if (effect) effects.add(effect);
    const { path } = builtIn === undefined ? resolver.sync(dirname(next.importer), next.specifier) : {};
    if (path === undefined || visited.has(path) || !/\.[cm]?[jt]sx?$/.test(path)) continue;
    visited.add(path);
    for (const imported of importsOf(path, effects)) waiting.push({ specifier: imported, importer: path });
  }
  return effects;
}

function importsOf(path: string, effects: Set<Effect>): readonly string[] {
  try {
    const text = readFileSync(path, "utf8");
    if (CONNECTS.test(text)) effects.add("opens connections");
    return moduleRecordOf(path, text).sites.map(({ specifier }) => specifier);
  } catch {
    // A file that cannot be read or parsed shows no import.
    return [];
  }
}

/** Returns why a use may change something outside the program; `undefined` if it does not seem to. */
export function effectOfUse(
  effects: ReadonlySet<Effect>,
  { members, isAsync }: { readonly members: readonly string[]; readonly isAsync: boolean },
): string | undefined {
  const [effect] = effects;
  if (effect === undefined) return undefined;
  const isChange = members.some(
    (member) =>
      ENDS.has(member) || CHANGES.has(/^[a-z]+/.exec(member)?.[0] ?? "") || /^sync$|Sync$/.test(member),
  );
  return isAsync || isChange ? `it may have effects, because the module ${effect}` : undefined;
}
