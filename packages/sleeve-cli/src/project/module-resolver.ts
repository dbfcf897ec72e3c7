import { existsSync } from "node:fs";
import { isBuiltin } from "node:module";
import { ResolverFactory } from "oxc-resolver";
import { foldersWrittenBy, referencedFolders, syntaxErrorIn } from "../compiler/settings/config-text.ts";
import { configFilesOf, configsOf, type ReadConfig } from "../compiler/settings/configs.ts";
import { elementsModule } from "../compiler/settings/jsx.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { type Components, componentsIn, scriptsIn } from "./components/components.ts";
import type { Modules } from "./modules.ts";
import { guessedTarget } from "./packages/destinations.ts";
import { FILE_LOOKUP } from "./packages/file-lookup.ts";
import { Packages, packageNameOf, packageNameOfPath } from "./packages/packages.ts";
import type { ProjectFolder } from "./project.ts";
import { FileRecords } from "./reading/file-records.ts";
import { isSource } from "./reading/read-source.ts";

/**
 * Replaces the compiler for a survey of imports: the files of the config, the files they import by path, and
 * module resolution. It reads no files of packages.
 */
export class ModuleResolver implements Modules {
  readonly records: FileRecords;
  readonly components: Components;
  readonly translatedSettings: readonly string[];
  readonly isClassic: boolean;
  readonly #folder: ProjectFolder;
  readonly #configs: readonly ReadConfig[];
  readonly #named: ReadonlySet<string>;
  readonly #files: ReadonlySet<string>;
  readonly #resolver: ResolverFactory;

  /** Reads the config, and starts to read its files. */
  constructor(folder: ProjectFolder) {
    this.#folder = folder;
    const translated = configFilesOf(folder.tsconfig, folder.generatedConfig);
    this.translatedSettings = translated.settings;
    this.isClassic = translated.isClassic;
    this.components = componentsIn(folder.root);
    const scripts = scriptsIn(this.components);
    this.#configs = configsOf(folder.tsconfig, { files: new Map([...translated.files, ...scripts]) });
    const named = this.#configs.flatMap(({ files }) => files);
    this.records = FileRecords.start(named.filter(isSource), scripts);
    this.#resolver = new ResolverFactory({
      ...(folder.generatedConfig === undefined && {
        tsconfig: { configFile: folder.tsconfig, references: "auto" as const },
      }),
      ...FILE_LOOKUP,
    });
    this.#named = new Set(named);
    this.#files = this.#reachedFrom();
  }

  allFiles(): readonly string[] {
    return [...this.#files];
  }

  isNamed(path: string): boolean {
    return this.#named.has(path);
  }

  resolveModule(importer: string, { specifier }: Pick<ImportSite, "specifier">): string | undefined {
    const { path } = this.#resolver.resolveDtsSync(importer, specifier);
    return path === undefined || !existsSync(path) ? undefined : path;
  }

  outputFolders(): readonly string[] {
    return this.#configs.flatMap(({ tsconfig, options }) => foldersWrittenBy(tsconfig, options));
  }

  referencedFolders(): readonly string[] {
    return referencedFolders(this.#configs.map(({ tsconfig }) => tsconfig));
  }

  hasPathAliases(): boolean {
    return this.#configs.some(({ options }) => Object.keys(options.paths ?? {}).length > 0);
  }

  elementsFrom(): string | undefined {
    const [firstConfig] = this.#configs;
    return firstConfig && elementsModule(firstConfig.options);
  }

  /** Reports only syntax errors of a config; the meaning of its settings needs the compiler. */
  configDiagnostics(): readonly { readonly fileName: string; readonly text: string }[] {
    const { tsconfig, generatedConfig } = this.#folder;
    const text = generatedConfig === undefined ? syntaxErrorIn(tsconfig) : undefined;
    return text === undefined ? [] : [{ fileName: tsconfig, text }];
  }

  /** Returns the files of the config, and the sources of the project that they import. */
  #reachedFrom(): ReadonlySet<string> {
    const files = new Set(this.#named);
    const installed = new Packages();
    const allowsScripts = this.#configs.some(({ options }) => options.allowJs === true);
    const isRead = (path: string) =>
      isSource(path) && !/\.d\.[cm]?ts$/.test(path) && (allowsScripts || /\.[cm]?tsx?$/.test(path));
    for (const path of files) {
      const record = this.records.get(path);
      if (record === undefined || record === "too deep") continue;
      for (const { specifier } of record.sites) {
        if (guessedTarget(path, specifier, (name) => files.has(name)) !== undefined) continue;
        const bare = packageNameOf(specifier);
        if (isBuiltin(specifier) || (bare !== undefined && installed.find(bare, path))) continue;
        const target = this.resolveModule(path, { specifier });
        const isOurs = target !== undefined && packageNameOfPath(target, this.#folder.root) === undefined;
        if (isOurs && isRead(target)) files.add(target);
      }
    }
    return files;
  }
}
