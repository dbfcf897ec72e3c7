import { dirname } from "node:path";
import { CliError } from "../../errors.ts";
import { endCompiler, startCompiler } from "../compiler-process.ts";
import { FileShadow } from "../overlay.ts";
import type { API, CompilerOptions } from "../typescript.ts";
import { referencesIn, type TextOf, textOnDisk } from "./config-text.ts";
import { type TranslatedConfigs, translatedConfigs } from "./old-settings.ts";

/** A config as the compiler reads it, including the ones it extends. */
export interface ReadConfig {
  readonly tsconfig: string;
  readonly files: readonly string[];
  readonly options: CompilerOptions;
}

/** Returns a config or, if it names no files of its own, those it references. */
export function readConfigs(api: API, tsconfig: string, visited = new Set<string>()): readonly ReadConfig[] {
  if (visited.has(tsconfig)) return [];
  visited.add(tsconfig);
  const { fileNames, options } = api.parseConfigFile(tsconfig);
  if (fileNames.length > 0) return [{ tsconfig, files: fileNames, options }];
  const referred = referencesIn(tsconfig).flatMap((reference) => readConfigs(api, reference, visited));
  return referred.length > 0 ? referred : [{ tsconfig, files: [], options }];
}

/**
 * Returns the configs that the compiler must read in memory: a generated one, or those with old settings.
 *
 * @throws {CliError} `BROKEN_TSCONFIG` if a config extends itself
 */
export function configFilesOf(
  tsconfig: string,
  generatedConfig: string | undefined,
  textOf: TextOf = textOnDisk,
): TranslatedConfigs {
  const translated = translatedConfigs(tsconfig, (path) =>
    path === tsconfig && generatedConfig !== undefined ? generatedConfig : textOf(path),
  );
  if (translated.cyclic !== undefined) {
    throw new CliError(
      "BROKEN_TSCONFIG",
      `${translated.cyclic} extends itself, directly or through others. Remove the cycle from \`extends\`, and run again.`,
    );
  }
  if (generatedConfig === undefined || translated.files.has(tsconfig)) return translated;
  return { ...translated, files: new Map([...translated.files, [tsconfig, generatedConfig]]) };
}

/** Reads a config, real or made up, with a short-lived compiler. */
export function configsOf(
  tsconfig: string,
  { files }: Pick<TranslatedConfigs, "files">,
): readonly ReadConfig[] {
  const shadow = new FileShadow();
  for (const [path, text] of files) shadow.set(path, text);
  const api = startCompiler(dirname(tsconfig), files.size === 0 ? undefined : shadow.fileSystem);
  try {
    return readConfigs(api, tsconfig);
  } finally {
    endCompiler(api);
  }
}
