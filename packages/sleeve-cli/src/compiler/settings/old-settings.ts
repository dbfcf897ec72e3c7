import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { dirname, isAbsolute, resolve } from "node:path";
import { extendedBy, referencesIn, type TextOf, textOnDisk, valuesIn } from "./config-text.ts";

/** Configs in memory that replace those with settings that the compiler no longer takes. */
export interface TranslatedConfigs {
  /** Texts by path. Empty if nothing had to be translated. */
  readonly files: ReadonlyMap<string, string>;
  /** The settings that were translated: `baseUrl`, `target: es5`. */
  readonly settings: readonly string[];
  /** Whether a config has `moduleResolution: classic`, set or by default. */
  readonly isClassic: boolean;
  /** The first config that extends itself, directly or through others. */
  readonly cyclic: string | undefined;
}

type Options = Readonly<Record<string, unknown>>;

/** One config of a chain, the most basic one first. */
interface ChainedConfig {
  readonly path: string;
  readonly values: Readonly<Record<string, unknown>>;
  readonly options: Options;
}

/** Settings without an effect on types, or without an equivalent. */
const REMOVED: ReadonlySet<string> = new Set([
  "outFile",
  "out",
  "importsNotUsedAsValues",
  "preserveValueImports",
  "keyofStringsOnly",
  "noStrictGenericChecks",
  "suppressImplicitAnyIndexErrors",
  "suppressExcessPropertyErrors",
  "charset",
  "downlevelIteration",
  "noImplicitUseStrict",
  "prepend",
  "baseUrl",
]);

/** Settings of which only this value is left. */
const FIXED: Options = { alwaysStrict: true, esModuleInterop: true, allowSyntheticDefaultImports: true };

const OLD_TARGETS: ReadonlySet<unknown> = new Set(["es3", "es5"]);
const OLD_MODULES: ReadonlySet<unknown> = new Set(["amd", "umd", "system", "none"]);
const OLD_RESOLUTIONS: ReadonlySet<unknown> = new Set(["node", "node10", "classic"]);
const NODE_MODULES = /^node(?:16|18|20|next)$/;

/** The library that these targets include unless `lib` is set. */
const ES5_LIBRARY = ["es5", "dom", "webworker.importscripts", "scripthost"];

/** From this version of the compiler on, the defaults are those of the native one. */
const NEW_DEFAULTS = 6;

/**
 * Translates settings that the native compiler rejects or understands differently into equivalent ones, for a config
 * and those it extends and references, whose texts may be replaced. Defaults follow the compiler that the project has installed.
 */
export function translatedConfigs(
  tsconfig: string,
  textOf: TextOf = textOnDisk,
  visited = new Set<string>(),
): TranslatedConfigs {
  const files = new Map<string, string>();
  const settings = new Set<string>();
  let isClassic = false;
  const { chain, cyclic } = chainOf(tsconfig, textOf);
  if (cyclic !== undefined || visited.has(tsconfig)) return { files, settings: [], isClassic, cyclic };
  visited.add(tsconfig);
  isClassic = translate(tsconfig, chain, files, settings);
  for (const reference of referencesIn(tsconfig, textOf)) {
    if (textOf(reference) === undefined) continue;
    const referenced = translatedConfigs(reference, textOf, visited);
    if (referenced.cyclic !== undefined) return referenced;
    for (const [path, text] of referenced.files) files.set(path, text);
    for (const setting of referenced.settings) settings.add(setting);
    isClassic ||= referenced.isClassic;
  }
  return { files, settings: [...settings], isClassic, cyclic: undefined };
}

/** Returns a config and those it extends; own settings come last. */
function chainOf(
  tsconfig: string,
  textOf: TextOf,
): {
  readonly chain: readonly ChainedConfig[];
  readonly cyclic: string | undefined;
} {
  const chain: ChainedConfig[] = [];
  let cyclic: string | undefined;
  const add = (path: string, through: readonly string[]): void => {
    if (through.includes(path)) cyclic ??= path;
    if (cyclic !== undefined || textOf(path) === undefined) return;
    for (const base of extendedBy(path, textOf)) add(base, [...through, path]);
    const values = valuesIn(path, textOf);
    const { compilerOptions } = values;
    const options =
      typeof compilerOptions === "object" && compilerOptions !== null ? (compilerOptions as Options) : {};
    chain.push({ path, values, options });
  };
  add(tsconfig, []);
  return { chain, cyclic };
}

/** The settings of a config, with what their translation changes. */
interface Translation {
  readonly effective: Options;
  readonly changed: Record<string, unknown>;
  /** Whether the project has a compiler whose defaults differ from those of the native one. */
  readonly isOld: boolean;
  readonly note: (name: string, value?: unknown) => void;
}

/** Translates one config, and returns whether it resolves modules as `classic` does. */
function translate(
  tsconfig: string,
  chain: readonly ChainedConfig[],
  files: Map<string, string>,
  settings: Set<string>,
): boolean {
  const leaf = chain.at(-1);
  if (!leaf) return false;
  const effective = withoutCase(Object.assign({}, ...chain.map(({ options }) => options)) as Options);
  const changed: Record<string, unknown> = {};
  const note = (name: string, value?: unknown) =>
    settings.add(value === undefined ? name : `${name}: ${String(value)}`);
  const isOld = hasOldDefaults(tsconfig);
  const translation = { effective, changed, isOld, note };
  const target = translateTarget(translation);
  const module = translateModule(translation, target);
  translateResolution(translation, module);
  translateFixed(translation);
  const paths = pathsOf(chain);
  if (paths) changed["paths"] = paths;
  for (const name of REMOVED) if (effective[name] !== undefined) note(name);
  const isTranslated =
    settings.size > 0 || Object.entries(changed).some(([name, value]) => effective[name] !== value);
  const isClassic = resolvesAsClassic(effective["moduleResolution"], module, isOld);
  if (!isTranslated) return isClassic;
  for (const { path, values, options } of chain) {
    const supported = Object.fromEntries(Object.entries(options).filter(([name]) => !REMOVED.has(name)));
    const leafOptions = path === leaf.path ? { ...supported, ...changed } : supported;
    files.set(path, JSON.stringify({ ...values, compilerOptions: leafOptions }));
  }
  return isClassic;
}

function translateTarget({ effective, changed, isOld, note }: Translation): unknown {
  const target = effective["target"] ?? (isOld ? "es5" : undefined);
  if (!OLD_TARGETS.has(target)) return target;
  if (effective["target"] !== undefined) note("target", target);
  changed["target"] = "es2015";
  changed["lib"] = effective["lib"] ?? ES5_LIBRARY;
  return target;
}

function translateModule({ effective, changed, isOld, note }: Translation, target: unknown): unknown {
  const oldDefault = OLD_TARGETS.has(target) ? "commonjs" : "es2015";
  const module = effective["module"] ?? (isOld ? oldDefault : undefined);
  if (OLD_MODULES.has(module)) {
    note("module", module);
    changed["module"] = "commonjs";
  } else if (isOld && effective["module"] === undefined) changed["module"] = module;
  return module;
}

function translateFixed({ effective, changed, isOld, note }: Translation): void {
  for (const [name, value] of Object.entries(FIXED))
    if (effective[name] !== undefined && effective[name] !== value) {
      note(name, effective[name]);
      changed[name] = value;
    }
  if (!isOld) return;
  changed["strict"] = effective["strict"] ?? false;
  changed["types"] = effective["types"] ?? ["*"];
  changed["noUncheckedSideEffectImports"] = effective["noUncheckedSideEffectImports"] ?? false;
}

/** Whether resolution is `classic`, which was the default of all modules but those of Node.js. */
function resolvesAsClassic(resolution: unknown, module: unknown, isOld: boolean): boolean {
  if (resolution !== undefined) return resolution === "classic";
  return isOld && /^(?:amd|system|es6|es2015|es2020|es2022|esnext|none)$/.test(String(module));
}

function translateResolution({ effective, changed, isOld, note }: Translation, module: unknown): void {
  const resolution = effective["moduleResolution"];
  if (resolution === undefined && (!isOld || NODE_MODULES.test(String(module)) || module === "preserve"))
    return;
  if (resolution !== undefined && !OLD_RESOLUTIONS.has(resolution)) {
    // Both must now be set to the same.
    if (NODE_MODULES.test(String(resolution)) && !NODE_MODULES.test(String(module))) {
      note("module", module);
      changed["module"] = resolution;
    }
    return;
  }
  if (resolution !== undefined) note("moduleResolution", resolution);
  changed["moduleResolution"] = "bundler";
  // These did not read `exports` and `imports` of packages.
  changed["resolvePackageJsonExports"] = false;
  changed["resolvePackageJsonImports"] = false;
}

/** The names of values are read in any case. */
function withoutCase(options: Options): Options {
  const lowered = (value: unknown) => (typeof value === "string" ? value.toLowerCase() : value);
  return {
    ...options,
    target: lowered(options["target"]),
    module: lowered(options["module"]),
    moduleResolution: lowered(options["moduleResolution"]),
  };
}

/** Returns `paths` with what `baseUrl` adds to them, as absolute paths; none if there is no `baseUrl`. */
function pathsOf(chain: readonly ChainedConfig[]): Readonly<Record<string, readonly string[]>> | undefined {
  const last = (name: string) => [...chain].reverse().find(({ options }) => options[name] !== undefined);
  const withBase = last("baseUrl");
  if (!withBase) return undefined;
  const base = resolve(dirname(withBase.path), String(withBase.options["baseUrl"]));
  const mappings = last("paths")?.options["paths"];
  const aliases =
    typeof mappings === "object" && mappings !== null
      ? (mappings as Readonly<Record<string, readonly string[]>>)
      : {};
  const absolute = (path: string) => (isAbsolute(path) ? path : resolve(base, path));
  const paths = Object.fromEntries(
    Object.entries(aliases).map(([pattern, targets]) => [pattern, targets.map(absolute)]),
  );
  return { ...paths, "*": [...(paths["*"] ?? []), `${base}/*`] };
}

/** Whether the project has a compiler installed whose defaults differ from those of the native one. */
function hasOldDefaults(tsconfig: string): boolean {
  try {
    const manifest = createRequire(tsconfig).resolve("typescript/package.json");
    const { version } = JSON.parse(readFileSync(manifest, "utf8")) as { version?: string };
    return Number.parseInt(version ?? "", 10) < NEW_DEFAULTS;
  } catch {
    return false;
  }
}
