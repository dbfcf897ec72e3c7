import { existsSync, readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, join, resolve } from "node:path";
import { type ParseError, parse, printParseErrorCode } from "jsonc-parser";
import { Lines } from "../../place.ts";

/** Returns the text of a config, which may exist only in memory; `undefined` if there is none. */
export type TextOf = (path: string) => string | undefined;

export function textOnDisk(path: string): string | undefined {
  return existsSync(path) ? readFileSync(path, "utf8") : undefined;
}

// The compiler's API returns the resolved config, but neither its references nor the configs it extends.

/** Returns the configs that a config references. */
export function referencesIn(tsconfig: string, textOf?: TextOf): readonly string[] {
  const { ["references"]: references } = valuesIn(tsconfig, textOf);
  if (!Array.isArray(references)) return [];
  return references.flatMap(({ path }: { path?: unknown }) => {
    if (typeof path !== "string") return [];
    const target = resolve(dirname(tsconfig), path);
    return target.endsWith(".json") ? target : join(target, "tsconfig.json");
  });
}

/** Returns the configs that a config references, directly or through others. */
export function referencedConfigs(tsconfig: string, visited = new Set<string>()): ReadonlySet<string> {
  for (const reference of referencesIn(tsconfig)) {
    if (visited.has(reference)) continue;
    visited.add(reference);
    referencedConfigs(reference, visited);
  }
  return visited;
}

/** Returns the folders of configs that some configs reference, and that are none of these. */
export function referencedFolders(configs: readonly string[]): readonly string[] {
  const referenced = configs.flatMap((config) => [...referencedConfigs(config)]);
  return referenced.filter((config) => !configs.includes(config)).map((config) => dirname(config));
}

/** Returns the folders that the compiler writes for a config. */
export function foldersWrittenBy(
  tsconfig: string,
  {
    outDir,
    declarationDir,
  }: { readonly outDir?: string | undefined; readonly declarationDir?: string | undefined },
): readonly string[] {
  return [outDir, declarationDir]
    .flatMap((folder) => folder ?? [])
    .map((folder) => resolve(dirname(tsconfig), folder));
}

/** Returns the configs that a config extends itself, in order. */
export function extendedBy(tsconfig: string, textOf?: TextOf): readonly string[] {
  const { ["extends"]: bases = [] } = valuesIn(tsconfig, textOf);
  return [bases].flat().flatMap((base) => (typeof base === "string" ? baseAt(base, tsconfig) : []));
}

/** Returns a config with all configs that it extends and references, recursively. */
export function configChain(tsconfig: string, visited = new Set<string>()): ReadonlySet<string> {
  if (visited.has(tsconfig)) return visited;
  visited.add(tsconfig);
  for (const base of extendedBy(tsconfig)) configChain(base, visited);
  for (const reference of referencesIn(tsconfig)) configChain(reference, visited);
  return visited;
}

/** Returns the syntax error of a config that is not JSON with comments. */
export function syntaxErrorIn(tsconfig: string): string | undefined {
  if (!existsSync(tsconfig)) return undefined;
  const errors: ParseError[] = [];
  const text = readFileSync(tsconfig, "utf8");
  parse(text, errors, { allowTrailingComma: true });
  const [firstError] = errors;
  if (!firstError) return undefined;
  const { line, column } = new Lines(text).at(firstError.offset);
  // The parser's codes are words joined in camel case: `PropertyNameExpected`.
  const words = printParseErrorCode(firstError.error).replace(/(?<=[a-z])[A-Z]/g, (letter) => ` ${letter}`);
  return `${words.toLowerCase()} in line ${line}, column ${column}`;
}

/** Returns the settings of a config as written, without those that it extends. */
export function valuesIn(tsconfig: string, textOf: TextOf = textOnDisk): Readonly<Record<string, unknown>> {
  const text = textOf(tsconfig);
  const config: unknown = text === undefined ? {} : parse(text, [], { allowTrailingComma: true });
  return typeof config === "object" && config !== null ? (config as Record<string, unknown>) : {};
}

function baseAt(base: string, tsconfig: string): string {
  if (/^\.|^\//.test(base)) {
    const path = resolve(dirname(tsconfig), base);
    return path.endsWith(".json") ? path : `${path}.json`;
  }
  const { resolve: find } = createRequire(tsconfig);
  for (const name of [base, `${base}.json`, `${base}/tsconfig.json`]) {
    try {
      return find(name);
    } catch {
      // Retry with the other form.
    }
  }
  return join(dirname(tsconfig), "node_modules", base);
}
