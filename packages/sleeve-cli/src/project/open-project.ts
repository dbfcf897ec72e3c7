import { readFileSync } from "node:fs";
import { relative, sep } from "node:path";
import { type FileChanges, Program } from "../compiler/program.ts";
import type { Problem } from "../errors.ts";
import { type ImportSite, moduleRecordOf } from "../parser/module-record.ts";
import { compareText, Lines, type Place, placeText } from "../place.ts";
import { Packages, packageNameOf, packageNameOfPath } from "./packages.ts";
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
}

/** A place where the project imports a package. */
export interface PackageImport {
  readonly package: string;
  readonly site: ImportSite;
  readonly source: SourceText;
  readonly place: Place;
}

/** A package that the project imports and does not hold the sources of. */
export interface OutsidePackage {
  readonly name: string;
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
  readonly #packageOfFolder: ReadonlyMap<string, string>;
  readonly #ownPaths: ReadonlySet<string>;

  static open({ root, tsconfig, madeUp }: ProjectFolder): OpenProject {
    const program = Program.open({ tsconfig, madeUp });
    try {
      return new OpenProject(root, program);
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
    return new OpenProject(this.root, this.program, kept);
  }

  private constructor(root: string, program: Program, kept?: ReadonlyMap<string, SourceText>) {
    this.root = root;
    this.program = program;
    const problems: Problem[] = configProblems(program);
    const candidates = program
      .allFiles()
      .filter((path) => isSource(path) && packageNameOfPath(path, root) === undefined);
    const sources = candidates
      .sort(compareText)
      .flatMap((path) => kept?.get(path) ?? readSource(path, root, problems) ?? []);
    const resolved = resolveImports(program, root, sources, new Set(candidates));
    this.imports = resolved.imports;
    this.packages = resolved.packages;
    this.#packageOfFolder = resolved.folders;
    this.sources = sources.filter(({ path }) => this.packageOf(path) === undefined);
    this.#ownPaths = new Set(this.sources.map(({ path }) => path));
    this.problems = [
      ...problems,
      ...resolved.packages
        .filter(({ isInstalled }) => !isInstalled)
        .map(({ name }) => this.#notInstalled(name)),
    ];
  }

  /** The outside package that a file belongs to. */
  packageOf(path: string): string | undefined {
    const named = packageNameOfPath(path, this.root);
    if (named !== undefined) return named;
    for (const [folder, name] of this.#packageOfFolder) if (path.startsWith(`${folder}/`)) return name;
    return undefined;
  }

  isOwn(path: string): boolean {
    return this.#ownPaths.has(path);
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

function isSource(path: string): boolean {
  return path.startsWith("/") || /^[A-Za-z]:/.test(path) ? /\.[cm]?[jt]sx?$/.test(path) : false;
}

function configProblems(program: Program): Problem[] {
  return program.configDiagnostics().map(({ fileName, text }) => ({
    code: "BROKEN_TSCONFIG",
    message: `${fileName ?? "The compiler's config"} is broken: ${text.replace(/\.$/, "")}. Correct it and run again.`,
  }));
}

function readSource(path: string, root: string, problems: Problem[]): SourceText | undefined {
  const file = relative(root, path).split(sep).join("/");
  let text: string;
  try {
    // The compiler does not count a byte-order mark, nor do editors.
    text = readFileSync(path, "utf8").replace(/^\uFEFF/, "");
  } catch {
    problems.push({
      code: "UNREADABLE",
      message: `${file} cannot be read. Give read permission on it and run again.`,
    });
    return undefined;
  }
  const lines = new Lines(text);
  const { sites, isModule, syntaxErrors } = moduleRecordOf(path, text);
  const [error] = syntaxErrors;
  if (error) {
    const place = placeText({ file, ...lines.at(error.offset) });
    const reason = error.message.replace(/\.$/, "");
    problems.push({
      code: "SYNTAX_ERROR",
      message: `${place} does not parse: ${reason}. Correct it and run again.`,
    });
  }
  return { path, file, text, lines, sites, isModule };
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
): ResolvedImports {
  const installed = new Packages();
  const folders = new Map<string, string>();
  const packages = new Map<string, OutsidePackage>();
  const ours = new Set<string>();
  const imports: PackageImport[] = [];
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
    packages.set(name, { name, version: found?.version, isInstalled });
    return false;
  };
  for (const source of sources) {
    for (const site of source.sites) {
      const name = packageNameOf(site.specifier);
      if (name === undefined || isOurs(name, source, site)) continue;
      const place = { file: source.file, ...source.lines.at(site.offset) };
      imports.push({ package: name, site, source, place });
    }
  }
  // What an outside package imports itself is not the project's doing.
  const isOutside = ({ source }: PackageImport) =>
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
