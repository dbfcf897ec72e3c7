import { dirname } from "node:path";
import { endCompiler, startCompiler } from "./compiler-process.ts";
import { referencesIn } from "./config-text.ts";
import { FileShadow } from "./overlay.ts";
import type { API, CompilerOptions } from "./typescript.ts";

/** A config as the compiler reads it, including the ones it extends. */
export interface ReadConfig {
  readonly tsconfig: string;
  readonly files: readonly string[];
  readonly options: CompilerOptions;
}

/** Returns a config or, if it names no files of its own, those it references. */
export function readConfigs(api: API, tsconfig: string, seen = new Set<string>()): readonly ReadConfig[] {
  if (seen.has(tsconfig)) return [];
  seen.add(tsconfig);
  const { fileNames, options } = api.parseConfigFile(tsconfig);
  if (fileNames.length > 0) return [{ tsconfig, files: fileNames, options }];
  const referred = referencesIn(tsconfig).flatMap((reference) => readConfigs(api, reference, seen));
  return referred.length > 0 ? referred : [{ tsconfig, files: [], options }];
}

/** Reads a config, real or made up, with a short-lived compiler. */
export function configsOf(tsconfig: string, generatedConfig: string | undefined): readonly ReadConfig[] {
  const shadow = new FileShadow();
  if (generatedConfig !== undefined) shadow.set(tsconfig, generatedConfig);
  const api = startCompiler(dirname(tsconfig), generatedConfig === undefined ? undefined : shadow.fileSystem);
  try {
    return readConfigs(api, tsconfig);
  } finally {
    endCompiler(api);
  }
}

/** The compiler's numbers of `react-jsx` and `react-jsxdev`; it does not export the names. */
const IMPORTS_FOR_JSX: ReadonlySet<number> = new Set([4, 5]);

/** Returns the module that the compiler imports implicitly for JSX elements. */
export function elementsModule({ jsx, jsxImportSource }: CompilerOptions): string | undefined {
  return jsx !== undefined && IMPORTS_FOR_JSX.has(jsx)
    ? `${jsxImportSource ?? "react"}/jsx-runtime`
    : undefined;
}
