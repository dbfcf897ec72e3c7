import { relative, sep } from "node:path";
import type { Problem } from "../errors.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { compareText, Lines, type Place, placeText } from "../place.ts";
import { type FileRecord, FileRecords } from "./file-records.ts";
import {
  legacyOf,
  type OutsideOptions,
  type OutsidePackage,
  type PackageImport,
  resolveImports,
} from "./outside-imports.ts";
import { builtInOfPath, packageNameOfPath } from "./packages.ts";

/** One of the project's own files. */
export interface SourceText {
  readonly path: string;
  /** Relative to the project's folder, with forward slashes. */
  readonly file: string;
  readonly text: string;
  readonly lines: Lines;
  readonly sites: readonly ImportSite[];
  /** Whether it is a module; what other files declare is global. */
  readonly isModule: boolean;
  /** Where it imports or requires something that only running it can tell. */
  readonly unresolved: readonly number[];
}

/** Which files a project is made of, and where their imports lead: what the compiler tells, or what stands in for it. */
export interface Modules {
  /** Every file, those of packages included as far as they are known. */
  allFiles(): readonly string[];
  /** Whether a config names it, and it is not only imported. */
  isNamed(path: string): boolean;
  /** The file, or the first of the declarations, that an import leads to. */
  resolveModule(importer: string, site: Pick<ImportSite, "specifier" | "offset">): string | undefined;
  /** The module that the compiler imports by itself where a file has elements of JSX. */
  elementsFrom(): string | undefined;
  /** What is wrong with the configs themselves. */
  configDiagnostics(): readonly { readonly fileName?: string | undefined; readonly text: string }[];
}

/** What of a project has been read before. */
export interface ReadBefore {
  readonly records?: FileRecords | undefined;
  readonly sources?: ReadonlyMap<string, SourceText> | undefined;
}

/**
 * A project's own files and what they import, as their syntax tells. What could not be read is among its problems; the rest is
 * there.
 */
export class ProjectSources {
  readonly root: string;
  readonly modules: Modules;
  readonly sources: readonly SourceText[];
  readonly imports: readonly PackageImport[];
  readonly packages: readonly OutsidePackage[];
  readonly #problems: readonly Problem[];
  /** Whether any package that is imported is linked in from elsewhere. */
  readonly hasLinkedPackages: boolean;
  readonly #options: OutsideOptions;
  readonly #packageOfFolder: ReadonlyMap<string, string>;
  readonly #byPath: ReadonlyMap<string, SourceText>;

  constructor(root: string, modules: Modules, options: OutsideOptions, before: ReadBefore = {}) {
    const { records = FileRecords.start([]), sources: kept } = before;
    this.root = root;
    this.modules = modules;
    this.#options = options;
    const problems: Problem[] = configProblems(modules);
    const candidates = modules
      .allFiles()
      .filter((path) => isSource(path) && packageNameOfPath(path, root) === undefined)
      // Declarations that are only imported were compiled from something, and are nobody's to edit.
      .filter((path) => modules.isNamed(path) || !/\.d\.[cm]?ts$/.test(path));
    const reading: Reading = { root, elementsFrom: modules.elementsFrom(), problems };
    const sources = candidates
      .sort(compareText)
      .flatMap((path) => kept?.get(path) ?? sourceOf(path, records.get(path), reading) ?? []);
    const resolved = resolveImports(modules, root, sources, new Set(candidates), options);
    this.imports = resolved.imports;
    this.packages = resolved.packages;
    this.hasLinkedPackages = resolved.hasLinked;
    this.#packageOfFolder = resolved.folders;
    this.sources = sources.filter(({ path }) => this.packageOf(path) === undefined);
    this.#byPath = new Map(this.sources.map((each) => [each.path, each]));
    this.#problems = [
      ...problems,
      ...resolved.packages
        .filter(({ isInstalled }) => !isInstalled)
        .map(({ name }) => this.#notInstalled(name)),
    ];
  }

  get problems(): readonly Problem[] {
    return this.#problems;
  }

  /** The outside package that a file belongs to. */
  packageOf(path: string): string | undefined {
    const builtIn = this.#options.builtIns ? builtInOfPath(path) : undefined;
    const named = builtIn ?? packageNameOfPath(path, this.root) ?? legacyOf(path, this.root, this.#options);
    if (named !== undefined) return named;
    for (const [folder, name] of this.#packageOfFolder) if (path.startsWith(`${folder}/`)) return name;
    return undefined;
  }

  isOwn(path: string): boolean {
    return this.#byPath.has(path);
  }

  /** One of the project's own files, by its path. */
  sourceAt(path: string): SourceText | undefined {
    return this.#byPath.get(path);
  }

  placeOf(source: SourceText, offset: number): Place {
    return { file: source.file, ...source.lines.at(offset) };
  }

  #notInstalled(name: string): Problem {
    const first = this.imports.find((each) => each.package === name);
    const where = first ? placeText(first.place) : "the project";
    return {
      code: "NOT_INSTALLED",
      message: `The package ${name}, imported in ${where}, is not installed. Install it and run again.`,
    };
  }
}

export function isSource(path: string): boolean {
  return path.startsWith("/") || /^[A-Za-z]:/.test(path) ? /\.[cm]?[jt]sx?$/.test(path) : false;
}

function configProblems(modules: Modules): Problem[] {
  return modules.configDiagnostics().map(({ fileName, text }) => ({
    code: "BROKEN_TSCONFIG",
    message: `${fileName ?? "The compiler's config"} is broken: ${text.replace(/\.$/, "")}. Correct it and run again.`,
  }));
}

interface Reading {
  readonly root: string;
  readonly elementsFrom: string | undefined;
  readonly problems: Problem[];
}

function sourceOf(
  path: string,
  record: FileRecord | undefined,
  { root, elementsFrom, problems }: Reading,
): SourceText | undefined {
  const file = relative(root, path).split(sep).join("/");
  if (!record) {
    problems.push({
      code: "UNREADABLE",
      message: `${file} cannot be read. Give read permission on it and run again.`,
    });
    return undefined;
  }
  const { text, sites: written, isModule, unresolved, firstElement, syntaxErrors } = record;
  const lines = new Lines(text);
  const sites =
    firstElement === undefined || elementsFrom === undefined
      ? written
      : [...written, elementSite(elementsFrom, firstElement)];
  const [error] = syntaxErrors;
  if (error) {
    const place = placeText({ file, ...lines.at(error.offset) });
    const reason = error.message.replace(/\.$/, "");
    problems.push({
      code: "SYNTAX_ERROR",
      message: `${place} does not parse: ${reason}. Correct it and run again.`,
    });
  }
  return { path, file, text, lines, sites, isModule, unresolved };
}

/** What the compiler imports for the elements of a file, as if it stood at the first of them. */
function elementSite(specifier: string, offset: number): ImportSite {
  return { specifier, offset, forms: ["jsx"], names: ["*"], locals: [], handsOn: [] };
}
