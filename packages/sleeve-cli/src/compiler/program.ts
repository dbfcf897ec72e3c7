import { existsSync, readFileSync } from "node:fs";
import { dirname, join, resolve } from "node:path";
import { parse } from "jsonc-parser";
import type { SourceFile } from "typescript/unstable/ast";
import {
  API,
  type Checker,
  type Symbol as CompilerSymbol,
  type Diagnostic,
  type Project,
  type Snapshot,
} from "typescript/unstable/sync";

/** A project's config, and its text where it exists only in memory. */
export interface ProgramConfig {
  readonly tsconfig: string;
  readonly madeUp?: string | undefined;
}

/** Files that have changed since the program was opened, or last told. */
export interface FileChanges {
  readonly changed: string[];
  readonly created: string[];
  readonly deleted: string[];
}

/**
 * A project as the compiler sees it, kept open until it is closed. A config that only refers to others opens
 * those.
 *
 * The compiler runs in a process of its own, and each question crosses over to it: ask in batches.
 */
export class Program {
  readonly #api: API;
  readonly #configs: readonly string[];
  #snapshot: Snapshot;
  #projects: readonly Project[] = [];
  readonly #projectOfFile = new Map<string, Project>();
  readonly #exports = new Map<string, ReadonlyMap<string, CompilerSymbol>>();

  static open(config: ProgramConfig): Program {
    const { tsconfig, madeUp } = config;
    const api = new API({
      cwd: dirname(tsconfig),
      ...(madeUp !== undefined && {
        fs: {
          readFile: (path: string) => (path === tsconfig ? madeUp : undefined),
          fileExists: (path: string) => (path === tsconfig ? true : undefined),
        },
      }),
    });
    try {
      return new Program(api, tsconfig);
    } catch (error) {
      close(api);
      throw error;
    }
  }

  private constructor(api: API, tsconfig: string) {
    this.#api = api;
    this.#configs = withReferences(api, tsconfig);
    this.#snapshot = api.updateSnapshot({ openProjects: [...this.#configs] });
    this.#take();
  }

  /** Takes in that files have changed, appeared or gone. What was asked before no longer holds. */
  update(changes: FileChanges): void {
    const before = this.#snapshot;
    this.#snapshot = this.#api.updateSnapshot({ fileChanges: changes });
    before.dispose();
    this.#take();
  }

  #take(): void {
    this.#projects = this.#configs.flatMap((config) => this.#snapshot.getProject(config) ?? []);
    this.#projectOfFile.clear();
    this.#exports.clear();
    for (const project of this.#projects) {
      for (const file of project.rootFiles)
        if (!this.#projectOfFile.has(file)) this.#projectOfFile.set(file, project);
    }
  }

  /** Every file that is part of the program: the project's own, declarations of packages, the language's library. */
  allFiles(): readonly string[] {
    return [...new Set(this.#projects.flatMap((project) => project.program.getSourceFileNames()))];
  }

  sourceFile(file: string): SourceFile | undefined {
    return this.#projectFor(file)?.program.getSourceFile(file);
  }

  checkerFor(file: string): Checker | undefined {
    return this.#projectFor(file)?.checker;
  }

  /** What a file exports, by name. */
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

  /** The file, or the first of the declarations, that an import's specifier leads to. */
  resolveModule(file: string, offset: number): string | undefined {
    // One past the opening quote, as the specifier itself is what has a symbol.
    return this.checkerFor(file)?.getSymbolAtPosition(file, offset + 1)?.declarations[0]?.path;
  }

  /** What the compiler has to say of one file. */
  diagnosticsOf(file: string): readonly Diagnostic[] {
    return this.#projectFor(file)?.program.getSemanticDiagnostics(file) ?? [];
  }

  /** What the compiler has to say of the configs themselves. */
  configDiagnostics(): readonly Diagnostic[] {
    return this.#projects.flatMap(({ program }) => program.getConfigFileParsingDiagnostics());
  }

  close(): void {
    this.#snapshot.dispose();
    close(this.#api);
  }

  [Symbol.dispose](): void {
    this.close();
  }

  #projectFor(file: string): Project | undefined {
    return this.#projectOfFile.get(file) ?? this.#projects[0];
  }
}

/**
 * Ends the compiler's process. One that is asked to end writes "context canceled" to the standard error that it
 * shares with us, so it is ended without asking; it has nothing to save.
 */
function close(api: API): void {
  const { client } = api as unknown as {
    client?: { channel?: { child?: { kill(signal: "SIGKILL"): void } } };
  };
  client?.channel?.child?.kill("SIGKILL");
  api.close();
}

/** A config or, where it names no files of its own, those that it refers to. */
function withReferences(api: API, tsconfig: string, seen = new Set<string>()): string[] {
  if (seen.has(tsconfig)) return [];
  seen.add(tsconfig);
  if (api.parseConfigFile(tsconfig).fileNames.length > 0) return [tsconfig];
  const referred = referencesIn(tsconfig).flatMap((reference) => withReferences(api, reference, seen));
  return referred.length > 0 ? referred : [tsconfig];
}

/** The compiler's interface does not tell the references of a config, so they are read from its text. */
function referencesIn(tsconfig: string): readonly string[] {
  if (!existsSync(tsconfig)) return [];
  const config: unknown = parse(readFileSync(tsconfig, "utf8"));
  const { references } = (config ?? {}) as { references?: unknown };
  if (!Array.isArray(references)) return [];
  return references.flatMap(({ path }: { path?: unknown }) => {
    if (typeof path !== "string") return [];
    const target = resolve(dirname(tsconfig), path);
    return target.endsWith(".json") ? target : join(target, "tsconfig.json");
  });
}
