import { existsSync, readFileSync } from "node:fs";
import { dirname, resolve } from "node:path";
import { endCompiler, failuresOf, processIdOf, startCompiler } from "./compiler-process.ts";
import { FileShadow } from "./overlay.ts";
import { hasSameImports } from "./same-imports.ts";
import {
  foldersWrittenBy,
  referencedConfigs,
  referencedFolders,
  textOnDisk,
} from "./settings/config-text.ts";
import { configFilesOf, readConfigs } from "./settings/configs.ts";
import { elementsModule } from "./settings/jsx.ts";
import type { TranslatedConfigs } from "./settings/old-settings.ts";
import { aliasTarget } from "./syntax.ts";
import {
  type API,
  type Checker,
  type CompilerOptions,
  type CompilerSymbol,
  type Diagnostic,
  DiagnosticCategory,
  ModuleKind,
  type Project,
  type Snapshot,
  type SourceFile,
} from "./typescript.ts";

/** A project's config, with its text if it exists only in memory. */
export interface ProgramConfig {
  readonly tsconfig: string;
  readonly generatedConfig?: string | undefined;
  /** Whether the program must support overlay files, which makes it slower to open. */
  readonly canOverlay?: boolean | undefined;
  /** Initial overlay files; `null` hides a file. */
  readonly files?: ReadonlyMap<string, string | null> | undefined;
  /** Called with the files of the config before the compiler reads them, which takes time. */
  readonly onFiles?: ((paths: readonly string[]) => void) | undefined;
}

/** A config with the files that it lists, and where it writes them. */
export interface ConfiguredProject {
  readonly tsconfig: string;
  readonly folder: string;
  readonly files: readonly string[];
  /** The configs that it references, directly or through others. */
  readonly references: ReadonlySet<string>;
  readonly isComposite: boolean;
  /** `rootDir`, if it is set. */
  readonly rootFolder: string | undefined;
  /** `outDir`, if code is written there. */
  readonly outFolder: string | undefined;
}

/** Files changed since the program was opened or last updated. */
export interface FileChanges {
  readonly changed: string[];
  readonly created: string[];
  readonly deleted: string[];
}

/** Number of files up to which updating each file alone takes less time than a new list of files. */
const MAX_SINGLE_UPDATES = 8;

/**
 * A project in the compiler, open until it is closed. A config that only references others opens those.
 *
 * The compiler runs in a process of its own, and each request crosses to it, so send requests in batches.
 */
export class Program {
  readonly #api: API;
  /** Whether it is another view of a program that owns the compiler's process. */
  readonly #isView: boolean;
  /** The configs of the project: one, unless it only references others. */
  readonly configs: readonly string[];
  #snapshot: Snapshot;
  #projects: readonly Project[] = [];
  readonly #projectOfFile = new Map<string, Project>();
  readonly #exports = new Map<string, ReadonlyMap<string, CompilerSymbol>>();
  readonly #shadow: FileShadow;
  /** Files of the program that are hidden. */
  #hiddenFiles: readonly string[] = [];
  /** Overlay files that no proposal drops: configs, and those that the program was opened with. */
  readonly #keptFiles: ReadonlySet<string>;
  /** Settings of the configs that were translated, because the compiler no longer takes them. */
  readonly translatedSettings: readonly string[];
  /** Whether names of modules are looked up in the folders above a file first, as `moduleResolution: classic` does. */
  readonly isClassic: boolean;

  static open(config: ProgramConfig): Program {
    const { tsconfig, generatedConfig, canOverlay = false, files, onFiles = () => {} } = config;
    const shadow = new FileShadow();
    for (const [path, text] of files ?? []) shadow.set(path, text);
    const textOf = (path: string) => files?.get(path) ?? textOnDisk(path);
    const translated = configFilesOf(tsconfig, generatedConfig, textOf);
    for (const [path, text] of translated.files) shadow.set(path, text);
    const api = startCompiler(
      dirname(tsconfig),
      translated.files.size > 0 || canOverlay || files ? shadow.fileSystem : undefined,
    );
    try {
      const configs = readConfigs(api, tsconfig);
      onFiles([...new Set(configs.flatMap(({ files }) => files))]);
      const paths = configs.map((config) => config.tsconfig);
      const snapshot = api.updateSnapshot({ openProjects: [...paths] });
      return new Program(api, paths, shadow, snapshot, translated);
    } catch (error) {
      endCompiler(api);
      throw error;
    }
  }

  private constructor(
    api: API,
    configs: readonly string[],
    shadow: FileShadow,
    snapshot: Snapshot,
    translated: TranslatedConfigs | Program,
  ) {
    this.#api = api;
    this.#isView = translated instanceof Program;
    this.#keptFiles = translated instanceof Program ? translated.#keptFiles : new Set(shadow.paths());
    this.translatedSettings =
      translated instanceof Program ? translated.translatedSettings : translated.settings;
    this.isClassic = translated.isClassic;
    this.#shadow = shadow;
    this.configs = configs;
    this.#snapshot = snapshot;
    this.#take();
  }

  /**
   * Returns a view of the program that can propose overlay files while this program stays as it is. Both share
   * the compiler's process and the files it has read. Requires `canOverlay`; close the view first.
   */
  view(): Program {
    return new Program(this.#api, this.configs, this.#shadow, this.#api.updateSnapshot({}), this);
  }

  /** Updates the program after files were changed, created or deleted. Earlier answers become invalid. */
  update(changes: FileChanges): void {
    const before = this.#snapshot;
    this.#snapshot = this.#api.updateSnapshot({ fileChanges: changes });
    before.dispose();
    this.#take();
  }

  /**
   * Shows the compiler overlay files, by path, without writing them. Overlays of earlier calls are dropped.
   * Earlier answers become invalid.
   */
  propose(files: ReadonlyMap<string, string>): void {
    this.#propose(files, this.#reveal());
  }

  /** The same, in a program in which some files and folders do not exist. They exist again with the next proposal. */
  proposeWithout(isHidden: (path: string) => boolean, files: ReadonlyMap<string, string>): void {
    this.#reveal();
    const hidden = this.allFiles().filter(isHidden);
    this.#shadow.hide(isHidden);
    this.#hiddenFiles = hidden;
    this.#propose(files, { changed: [], created: [], deleted: hidden });
  }

  /** Shows hidden files again. */
  #reveal(): FileChanges {
    const created = [...this.#hiddenFiles];
    this.#hiddenFiles = [];
    this.#shadow.hide(() => false);
    return { changed: [], created, deleted: [] };
  }

  #propose(files: ReadonlyMap<string, string>, visibility: FileChanges): void {
    const earlierPaths = [...this.#shadow.paths()].filter((path) => !this.#keptFiles.has(path));
    const changes = {
      changed: [...visibility.changed],
      created: [...visibility.created],
      deleted: [...visibility.deleted],
    };
    let keepsImports = visibility.created.length + visibility.deleted.length === 0;
    for (const path of new Set([...earlierPaths, ...files.keys()])) {
      const text = files.get(path);
      const previous = this.#shadow.textOf(path);
      if (text !== undefined && previous === text) continue;
      keepsImports &&= text !== undefined && typeof previous === "string" && hasSameImports(previous, text);
      const change = this.#overlay(path, text);
      changes[change].push(path);
    }
    // The compiler updates its list of files in place only for one changed file whose imports stay the same.
    if (!keepsImports || changes.changed.length > MAX_SINGLE_UPDATES) this.update(changes);
    else for (const path of changes.changed) this.update({ changed: [path], created: [], deleted: [] });
  }

  /** Lays a text over a file, or takes it away, and returns what that is for the compiler. */
  #overlay(path: string, text: string | undefined): "changed" | "created" | "deleted" {
    const existed = typeof this.#shadow.textOf(path) === "string" || existsSync(path);
    if (text === undefined) this.#shadow.delete(path);
    else this.#shadow.set(path, text);
    if (text === undefined && !existsSync(path)) return "deleted";
    return existed ? "changed" : "created";
  }

  /** Returns the files of the last proposal. */
  proposedFiles(): ReadonlyMap<string, string> {
    const paths = [...this.#shadow.paths()].filter((path) => !this.#keptFiles.has(path));
    return new Map(paths.map((path) => [path, this.#shadow.textOf(path) ?? ""]));
  }

  #take(): void {
    this.#projects = this.configs.flatMap((config) => this.#snapshot.getProject(config) ?? []);
    this.#projectOfFile.clear();
    this.#exports.clear();
    for (const project of this.#projects) {
      for (const file of project.rootFiles)
        if (!this.#projectOfFile.has(file)) this.#projectOfFile.set(file, project);
    }
  }

  /** All files of the program: the project's own, package declarations, and the language library. */
  allFiles(): readonly string[] {
    return [...new Set(this.#projects.flatMap((project) => project.program.getSourceFileNames()))];
  }

  /** Whether a setting maps names of modules to files of the project. */
  hasPathAliases(): boolean {
    return this.#projects.some(({ compilerOptions }) => Object.keys(compilerOptions.paths ?? {}).length > 0);
  }

  /** Returns the config that lists a file; the first one if none does. */
  configOf(file: string): string {
    return this.#projectOfFile.get(file)?.configFileName ?? this.configs[0] ?? "";
  }

  /** Whether a config would list some files if they existed. Requires `canOverlay`. */
  wouldList(config: string, paths: readonly string[]): boolean {
    const added = paths.filter((path) => !this.#shadow.has(path) && !existsSync(path));
    for (const path of added) this.#shadow.set(path, "");
    try {
      const listed = new Set(this.#api.parseConfigFile(config).fileNames);
      return paths.every((path) => listed.has(path));
    } finally {
      for (const path of added) this.#shadow.delete(path);
    }
  }

  /** The configs with the files that they list. */
  configuredProjects(): readonly ConfiguredProject[] {
    return this.#projects.map(({ configFileName: tsconfig, rootFiles, compilerOptions }) => {
      const { rootDir, outDir, noEmit, emitDeclarationOnly, composite } = compilerOptions;
      const folder = dirname(tsconfig);
      const isEmitted = noEmit !== true && emitDeclarationOnly !== true;
      return {
        tsconfig,
        folder,
        files: rootFiles,
        references: referencedConfigs(tsconfig),
        isComposite: composite === true,
        rootFolder: rootDir === undefined ? undefined : resolve(folder, rootDir),
        outFolder: outDir === undefined || !isEmitted ? undefined : resolve(folder, outDir),
      };
    });
  }

  /** Folders that the compiler writes. */
  outputFolders(): readonly string[] {
    return this.#projects.flatMap(({ configFileName, compilerOptions }) =>
      foldersWrittenBy(configFileName, compilerOptions),
    );
  }

  /** Folders of configs that the opened ones reference, without being opened. */
  referencedFolders(): readonly string[] {
    return referencedFolders(this.configs);
  }

  /** Whether a config lists a file, rather than importing it only. */
  isNamed(file: string): boolean {
    return this.#projectOfFile.has(file);
  }

  sourceFile(file: string): SourceFile | undefined {
    return this.#projectFor(file)?.program.getSourceFile(file);
  }

  /** Returns the text of a file, as an overlay shows it or as it is on disk. */
  textOf(file: string): string {
    return this.#shadow.textOf(file) ?? readFileSync(file, "utf8");
  }

  checkerFor(file: string): Checker | undefined {
    return this.#projectFor(file)?.checker;
  }

  /** Returns the settings that apply to a file. */
  optionsFor(file: string): CompilerOptions | undefined {
    return this.#projectFor(file)?.compilerOptions;
  }

  /** Returns the exports of a file, by name. */
  exportsOf(file: string): ReadonlyMap<string, CompilerSymbol> {
    let exports = this.#exports.get(file);
    if (!exports) {
      const source = this.sourceFile(file);
      const checker = this.checkerFor(file);
      const module = source && checker?.getSymbolAtLocation(source);
      const symbols = (module && checker?.getExportsOfModule(module)) ?? [];
      exports = new Map(symbols.map((symbol) => [symbol.name, symbol]));
      this.#exports.set(file, exports);
    }
    return exports;
  }

  /** Returns the file that declares an export, following aliases. */
  declaredIn(file: string, exported: CompilerSymbol): string | undefined {
    const checker = this.checkerFor(file);
    return checker && aliasTarget(checker, exported).declarations[0]?.path;
  }

  /** Returns the file, or the first declaration, that a specifier resolves to. */
  resolveModule(file: string, { offset }: { readonly offset: number }): string | undefined {
    // One past the opening quote, because the symbol belongs to the specifier.
    return this.checkerFor(file)?.getSymbolAtPosition(file, offset + 1)?.declarations[0]?.path;
  }

  /** Returns what a module exports under a name, following aliases. */
  exportOfModule(file: string, offset: number, name: string): CompilerSymbol | undefined {
    const checker = this.checkerFor(file);
    const module = checker?.getSymbolAtPosition(file, offset + 1);
    const symbol = module && checker?.getMemberInModuleExports(module, name);
    const target = symbol && checker && aliasTarget(checker, symbol);
    return target && !checker.isUnknownSymbol(target) ? target : undefined;
  }

  /** Returns the diagnostics of one file. */
  diagnosticsOf(file: string): readonly Diagnostic[] {
    return this.#projectFor(file)?.program.getSemanticDiagnostics(file) ?? [];
  }

  /** Returns the errors of one file, including syntax errors. */
  errorsIn(file: string): readonly Diagnostic[] {
    const program = this.#projectFor(file)?.program;
    if (!program) return [];
    return [...program.getSyntacticDiagnostics(file), ...program.getSemanticDiagnostics(file)].filter(
      ({ category }) => category === DiagnosticCategory.Error,
    );
  }

  /** Returns the module that the compiler imports implicitly for JSX elements. */
  elementsFrom(): string | undefined {
    const [options] = this.#projects.map(({ compilerOptions }) => compilerOptions);
    return options && elementsModule(options);
  }

  /**
   * Returns the ending of relative imports that the compiler's settings require, for projects without any.
   */
  importEnding(): "source" | "compiled" | "none" {
    const [options] = this.#projects.map(({ compilerOptions }) => compilerOptions);
    if (options?.allowImportingTsExtensions || options?.rewriteRelativeImportExtensions) return "source";
    const isNode =
      options?.module !== undefined &&
      options.module >= ModuleKind.Node16 &&
      options.module <= ModuleKind.NodeNext;
    return isNode ? "compiled" : "none";
  }

  /** Returns the diagnostics of the configs themselves. */
  configDiagnostics(): readonly Diagnostic[] {
    return this.#projects.flatMap(({ program }) => program.getConfigFileParsingDiagnostics());
  }

  /** Returns the identifier of the compiler's process. */
  processId(): number | undefined {
    return processIdOf(this.#api);
  }

  /** Returns the errors of requests at which the compiler failed. */
  failures(): readonly string[] {
    return failuresOf(this.#api);
  }

  close(): void {
    // Everything of the program ends with its process, which may have ended already.
    if (this.#isView) this.#snapshot.dispose();
    else endCompiler(this.#api);
  }

  [Symbol.dispose](): void {
    this.close();
  }

  #projectFor(file: string): Project | undefined {
    return this.#projectOfFile.get(file) ?? this.#projects[0];
  }
}
