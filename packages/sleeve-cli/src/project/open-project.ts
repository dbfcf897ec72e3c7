import { dirname, join, relative, sep } from "node:path";
import { type FileChanges, Program } from "../compiler/program.ts";
import type { Problem } from "../errors.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { compareText, Lines, type Place, placeText } from "../place.ts";
import { type FileRecord, FileRecords } from "./file-records.ts";
import { builtInOf, builtInOfPath, Packages, packageNameOf, packageNameOfPath } from "./packages.ts";
import type { ProjectFolder } from "./project.ts";

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

/** A place where the project imports a package. */
export interface PackageImport {
  readonly package: string;
  readonly site: ImportSite;
  readonly source: SourceText;
  readonly place: Place;
}

/** What counts as outside, beside packages, and what the project is opened for. */
export interface OpenOptions {
  /** Files, and folders with a slash at their end, that lie in the project and are not ours: legacy modules. */
  readonly legacy?: readonly string[] | undefined;
  /** Whether the built-ins of the runtime count as outside. */
  readonly builtIns?: boolean | undefined;
  /** Whether the compiler is going to be shown files as they would be. */
  readonly canPropose?: boolean | undefined;
  /** Files as the compiler is to see them, whatever is on disk; `null` for one that it is not to see. */
  readonly files?: ReadonlyMap<string, string | null> | undefined;
}

/** What the project imports and does not hold the sources of, or declares to be legacy. */
export interface OutsidePackage {
  /** As it is imported: `crane`, `node:fs`; a legacy module as the config names it: `src/legacy/`. */
  readonly name: string;
  readonly kind: "package" | "built-in" | "legacy";
  /** `undefined` where it is not installed, or its manifest gives none. */
  readonly version: string | undefined;
  readonly isInstalled: boolean;
}

/**
 * A project that is open for analysis: what its syntax tells, and the compiler to ask the rest. What could not be
 * read is among its problems; the rest is there.
 */
export class OpenProject {
  readonly root: string;
  readonly program: Program;
  readonly sources: readonly SourceText[];
  readonly imports: readonly PackageImport[];
  readonly packages: readonly OutsidePackage[];
  readonly problems: readonly Problem[];
  readonly #options: OpenOptions;
  readonly #packageOfFolder: ReadonlyMap<string, string>;
  readonly #byPath: ReadonlyMap<string, SourceText>;

  static open({ root, tsconfig, madeUp }: ProjectFolder, options: OpenOptions = {}): OpenProject {
    const { canPropose, files } = options;
    let records: FileRecords | undefined;
    const onFiles = (paths: readonly string[]) => {
      records = FileRecords.start(paths.filter((path) => isSource(path)));
    };
    const program = Program.open({ tsconfig, madeUp, canPropose, files, onFiles });
    try {
      return new OpenProject(root, program, options, records);
    } catch (error) {
      program.close();
      throw error;
    }
  }

  /**
   * The same project after files have changed, appeared or gone; this one is not to be used any more. Only what has
   * changed is read again.
   */
  after(changes: FileChanges): OpenProject {
    this.program.update(changes);
    const touched = new Set([...changes.changed, ...changes.created, ...changes.deleted]);
    const kept = new Map(
      this.sources.filter(({ path }) => !touched.has(path)).map((each) => [each.path, each]),
    );
    return new OpenProject(this.root, this.program, this.#options, undefined, kept);
  }

  private constructor(
    root: string,
    program: Program,
    options: OpenOptions,
    records = FileRecords.start([]),
    kept?: ReadonlyMap<string, SourceText>,
  ) {
    this.root = root;
    this.program = program;
    this.#options = options;
    const problems: Problem[] = configProblems(program);
    const candidates = program
      .allFiles()
      .filter((path) => isSource(path) && packageNameOfPath(path, root) === undefined);
    const reading: Reading = { root, elementsFrom: program.elementsFrom(), problems };
    const sources = candidates
      .sort(compareText)
      .flatMap((path) => kept?.get(path) ?? sourceOf(path, records.get(path), reading) ?? []);
    const resolved = resolveImports(program, root, sources, new Set(candidates), options);
    this.imports = resolved.imports;
    this.packages = resolved.packages;
    this.#packageOfFolder = resolved.folders;
    this.sources = sources.filter(({ path }) => this.packageOf(path) === undefined);
    this.#byPath = new Map(this.sources.map((each) => [each.path, each]));
    this.problems = [
      ...problems,
      ...resolved.packages
        .filter(({ isInstalled }) => !isInstalled)
        .map(({ name }) => this.#notInstalled(name)),
    ];
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

  close(): void {
    this.program.close();
  }

  [Symbol.dispose](): void {
    this.close();
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

/** The legacy module that a file is, or is a part of, as the config names it. */
function legacyOf(path: string, root: string, { legacy = [] }: OpenOptions): string | undefined {
  return legacy.find((entry) => {
    const whole = join(root, entry);
    return entry.endsWith("/") ? path.startsWith(whole) : path === whole;
  });
}

/** The file that a relative import leads to, as far as that can be told without asking the compiler. */
export function guessedTarget(
  importer: string,
  specifier: string,
  exists: (path: string) => boolean,
): string | undefined {
  if (!specifier.startsWith(".")) return undefined;
  const target = join(dirname(importer), specifier);
  const bare = target.replace(/\.([cm]?)jsx?$/, ".$1ts");
  return [target, bare, `${target}.ts`, `${target}.tsx`, join(target, "index.ts")].find(exists);
}

function isSource(path: string): boolean {
  return path.startsWith("/") || /^[A-Za-z]:/.test(path) ? /\.[cm]?[jt]sx?$/.test(path) : false;
}

function configProblems(program: Program): Problem[] {
  return program.configDiagnostics().map(({ fileName, text }) => ({
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

interface ResolvedImports {
  readonly imports: readonly PackageImport[];
  readonly packages: readonly OutsidePackage[];
  /** Where packages lie that are linked in from elsewhere. */
  readonly folders: ReadonlyMap<string, string>;
}

/** Settles which imports lead outside: to a package, installed or not, whose sources the project does not hold. */
function resolveImports(
  program: Program,
  root: string,
  sources: readonly SourceText[],
  candidates: ReadonlySet<string>,
  options: OpenOptions,
): ResolvedImports {
  const installed = new Packages();
  const folders = new Map<string, string>();
  const packages = new Map<string, OutsidePackage>();
  const ours = new Set<string>();
  const imports: PackageImport[] = [];
  const isCandidate = (path: string) => candidates.has(path);
  const elsewhere = (source: SourceText, site: ImportSite): string | undefined => {
    const { legacy = [], builtIns = false } = options;
    const builtIn = builtIns ? builtInOf(site.specifier) : undefined;
    if (builtIn !== undefined) {
      packages.set(builtIn, { name: builtIn, kind: "built-in", version: undefined, isInstalled: true });
      return builtIn;
    }
    if (legacy.length === 0 || legacyOf(source.path, root, options) !== undefined) return undefined;
    const target =
      guessedTarget(source.path, site.specifier, isCandidate) ??
      program.resolveModule(source.path, site.offset);
    const name = target === undefined ? undefined : legacyOf(target, root, options);
    if (name !== undefined)
      packages.set(name, { name, kind: "legacy", version: undefined, isInstalled: true });
    return name;
  };
  const isOurs = (name: string, source: SourceText, site: ImportSite): boolean => {
    if (ours.has(name)) return true;
    if (packages.has(name)) return false;
    const found = installed.find(name, source.path) ?? installed.find(typesPackageOf(name), source.path);
    const isLinked = found !== undefined && packageNameOfPath(found.folder, root) === undefined;
    const holdsSources = isLinked && [...candidates].some((path) => isSourceIn(path, found.folder));
    const target = found ? undefined : program.resolveModule(source.path, site.offset);
    if (holdsSources || (target !== undefined && packageNameOfPath(target, root) === undefined)) {
      ours.add(name);
      return true;
    }
    if (isLinked) folders.set(found.folder, name);
    const isInstalled = found !== undefined || target !== undefined;
    packages.set(name, { name, kind: "package", version: found?.version, isInstalled });
    return false;
  };
  for (const source of sources) {
    for (const site of source.sites) {
      const bare = packageNameOf(site.specifier);
      const name = bare === undefined || isOurs(bare, source, site) ? elsewhere(source, site) : bare;
      if (name === undefined) continue;
      const place = { file: source.file, ...source.lines.at(site.offset) };
      imports.push({ package: name, site, source, place });
    }
  }
  // What an outside package imports itself is not the project's doing.
  const isOutside = ({ source }: PackageImport) =>
    legacyOf(source.path, root, options) === undefined &&
    ![...folders.keys()].some((folder) => source.path.startsWith(`${folder}/`));
  const kept = imports.filter(isOutside);
  const named = new Set(kept.map((each) => each.package));
  return {
    imports: kept,
    packages: [...packages.values()]
      .filter(({ name }) => named.has(name))
      .sort((a, b) => compareText(a.name, b.name)),
    folders,
  };
}

/** Whether a file is a source, and not a declaration, in a folder. */
function isSourceIn(path: string, folder: string): boolean {
  return path.startsWith(`${folder}/`) && /(?<!\.d)\.[cm]?tsx?$/.test(path);
}

function typesPackageOf(name: string): string {
  return `@types/${name.startsWith("@") ? name.slice(1).replace("/", "__") : name}`;
}
