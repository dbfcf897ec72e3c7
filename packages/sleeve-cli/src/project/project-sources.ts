import { existsSync } from "node:fs";
import { join, relative, sep } from "node:path";
import { syntaxErrorIn } from "../compiler/settings/config-text.ts";
import type { Place } from "../documents/place.ts";
import type { Problem } from "../errors.ts";
import { compareText, Lines, placeText } from "../place.ts";
import { type Components, offsetInComponent } from "./components/components.ts";
import type { Modules } from "./modules.ts";
import { Destinations } from "./packages/destinations.ts";
import {
  legacyOf,
  type OutsideOptions,
  type OutsidePackage,
  type PackageImport,
  resolveImports,
} from "./packages/outside-imports.ts";
import { builtInOfPath, manifestAt, packageNameOfPath } from "./packages/packages.ts";
import { FileRecords } from "./reading/file-records.ts";
import { isSource, type Reading, sourceOf } from "./reading/read-source.ts";
import { type UncompiledFiles, uncompiledFilesIn } from "./reading/uncompiled-files.ts";
import type { SourceText } from "./source-text.ts";
import { interruptionIn } from "./writing/transaction.ts";

/** Parts of a project that were read before. */
export interface ReadBefore {
  readonly records?: FileRecords | undefined;
  readonly sources?: ReadonlyMap<string, SourceText> | undefined;
  readonly components?: Components | undefined;
}

/** A project's own files and their imports, from their syntax. Unreadable files are among its problems. */
export class ProjectSources {
  readonly root: string;
  readonly modules: Modules;
  readonly sources: readonly SourceText[];
  readonly imports: readonly PackageImport[];
  readonly packages: readonly OutsidePackage[];
  readonly #problems: readonly Problem[];
  /** Whether any imported package is linked. */
  readonly hasLinkedPackages: boolean;
  readonly #options: OutsideOptions;
  readonly #packageOfFolder: ReadonlyMap<string, string>;
  readonly #described: ReadonlyMap<string, ReadonlySet<string>>;
  /** Where specifiers lead. */
  readonly destinations: Destinations;
  readonly #byPath: ReadonlyMap<string, SourceText>;
  #uncompiled: UncompiledFiles | undefined;

  constructor(root: string, modules: Modules, options: OutsideOptions, before: ReadBefore = {}) {
    const { records = FileRecords.start([]), sources: kept, components } = before;
    this.root = root;
    this.modules = modules;
    this.#options = options;
    const problems: Problem[] = [
      ...interruptionIn(root),
      ...configProblems(root, modules),
      ...translationNotes(modules),
      ...(components?.problems ?? []),
    ];
    const otherFolders = modules.referencedFolders().filter((folder) => !folder.startsWith(`${root}/`));
    const isOfOtherProject = (path: string) => otherFolders.some((folder) => path.startsWith(`${folder}/`));
    const candidates = modules
      .allFiles()
      .filter((path) => isSource(path) && packageNameOfPath(path, root) === undefined)
      // Declarations that are only imported were compiled from something else and are not edited.
      .filter((path) => modules.isNamed(path) || !/\.d\.[cm]?ts$/.test(path))
      .filter((path) => modules.isNamed(path) || !isOfOtherProject(path));
    const reading: Reading = { root, elementsFrom: modules.elementsFrom(), problems, components };
    const sources = candidates
      .sort(compareText)
      .flatMap((path) => kept?.get(path) ?? sourceOf(path, records.get(path), reading) ?? []);
    // Files that were read before still have their problems.
    problems.push(...sources.flatMap(({ problem }) => problem ?? []));
    this.destinations = new Destinations(modules, root, new Set(candidates));
    const resolved = resolveImports(this.destinations, root, sources, options);
    this.imports = resolved.imports;
    this.packages = resolved.packages;
    this.hasLinkedPackages = resolved.hasLinked;
    this.#packageOfFolder = resolved.folders;
    this.#described = resolved.described;
    this.sources = sources.filter(({ path }) => this.packageOf(path) === undefined);
    this.#byPath = new Map(this.sources.map((source) => [source.path, source]));
    const ownManifest = join(root, "package.json");
    const isOwnBroken = existsSync(ownManifest) && manifestAt(ownManifest) === undefined;
    this.#problems = [
      ...problems,
      ...[...(isOwnBroken ? [ownManifest] : []), ...resolved.brokenManifests].map(
        (path): Problem => ({
          code: "BROKEN_MANIFEST",
          message: `${relative(root, path).split(sep).join("/")} is not a JSON object. Correct it, or install the package again, and run again.`,
        }),
      ),
      ...resolved.packages
        .filter(({ isInstalled }) => !isInstalled)
        .map(({ name }) => this.#notInstalled(name)),
      ...this.#missingTypes(),
    ];
  }

  get problems(): readonly Problem[] {
    return this.#problems;
  }

  /** Returns the outside package of a file. */
  packageOf(path: string): string | undefined {
    const builtIn = this.#options.builtIns ? builtInOfPath(path) : undefined;
    const named = builtIn ?? packageNameOfPath(path, this.root) ?? legacyOf(path, this.root, this.#options);
    if (named !== undefined) return named;
    for (const [folder, name] of this.#packageOfFolder) if (path.startsWith(`${folder}/`)) return name;
    return undefined;
  }

  /** Returns the outside packages that a declaration file of the project describes. */
  describedBy(path: string): ReadonlySet<string> {
    return this.#described.get(path) ?? NO_PACKAGES;
  }

  /** The files that the compiler's config does not include, and their imports. */
  get uncompiled(): UncompiledFiles {
    this.#uncompiled ??= uncompiledFilesIn(
      this.root,
      new Set(this.modules.allFiles()),
      this.modules.outputFolders(),
      this.#options,
    );
    return this.#uncompiled;
  }

  isOwn(path: string): boolean {
    return this.#byPath.has(path);
  }

  /** Returns one of the project's own files, by path. */
  sourceAt(path: string): SourceText | undefined {
    return this.#byPath.get(path);
  }

  placeOf(source: SourceText, offset: number): Place {
    const { component } = source;
    if (!component || offset < component.text.length)
      return { file: source.file, ...source.lines.at(offset) };
    return { file: source.file, ...new Lines(component.text).at(offsetInComponent(component, offset)) };
  }

  /** A package whose manifest names declarations that do not exist is known only by its name. */
  #missingTypes(): readonly Problem[] {
    return this.packages.flatMap(({ name }): readonly Problem[] => {
      const firstSite = this.imports.find((site) => site.package === name);
      const file = firstSite && this.destinations.missingTypesOf(name, firstSite.source.path, firstSite.site);
      return file === undefined
        ? []
        : [
            {
              code: "TYPES_MISSING",
              isNote: true,
              message: `The manifest of ${name} names ${file} as its types, which does not exist, so that its members are unknown. Install the package again, or declare its types.`,
            },
          ];
    });
  }

  #notInstalled(name: string): Problem {
    const firstSite = this.imports.find((site) => site.package === name);
    const where = firstSite ? placeText(firstSite.place) : "the project";
    const loader = firstSite && this.destinations.archiveLoaderOver(firstSite.source.path);
    if (loader !== undefined)
      return {
        code: "NOT_INSTALLED",
        message: `The package ${name}, imported in ${where}, is not in node_modules: ${relative(this.root, loader)} loads packages from archives, which are not read. Install packages to node_modules (\`nodeLinker: node-modules\`), and run again.`,
      };
    return {
      code: "NOT_INSTALLED",
      message: `The package ${name}, imported in ${where}, is not installed. Install it and run again.`,
    };
  }
}

const NO_PACKAGES: ReadonlySet<string> = new Set();

/** One problem for each config that is not JSON, or for each meaning that the compiler rejects. */
function configProblems(root: string, modules: Modules): Problem[] {
  const broken = (fileName: string | undefined, text: string): Problem => {
    const file =
      fileName === undefined ? "The compiler's config" : relative(root, fileName).split(sep).join("/");
    const reason = text.replace(/\s+/g, " ").replace(/\.$/, "");
    return { code: "BROKEN_TSCONFIG", message: `${file} is broken: ${reason}. Correct it and run again.` };
  };
  const diagnostics = modules.configDiagnostics();
  const fileNames = new Set(diagnostics.map(({ fileName }) => fileName));
  return [...fileNames].flatMap((fileName) => {
    const syntaxError = fileName === undefined ? undefined : syntaxErrorIn(fileName);
    if (syntaxError !== undefined) return [broken(fileName, syntaxError)];
    return diagnostics
      .filter((diagnostic) => diagnostic.fileName === fileName)
      .map(({ code, text }) => (code === NO_INPUTS ? noInputs(root, fileName) : broken(fileName, text)));
  });
}

/** The compiler's code for a config that includes no files. */
const NO_INPUTS = 18003;

function noInputs(root: string, tsconfig: string | undefined): Problem {
  const file = ["tsconfig.json", "jsconfig.json"].find((name) => existsSync(join(root, name)));
  const isWritten = tsconfig !== undefined || file !== undefined;
  return {
    code: "BROKEN_TSCONFIG",
    message: isWritten
      ? `${tsconfig === undefined ? file : relative(root, tsconfig)} includes no files. Correct \`include\` or \`files\`, and run again.`
      : `${root} has no tsconfig.json, and no TypeScript or JavaScript files. Pass the folder of a project.`,
  };
}

function translationNotes({ translatedSettings: settings }: Modules): Problem[] {
  if (settings.length === 0) return [];
  const [what, verb] = settings.length === 1 ? ["a setting", "is"] : ["settings", "are"];
  return [
    {
      code: "OLD_SETTINGS",
      isNote: true,
      message:
        `The compiler's config has ${what} that the native compiler no longer takes: ${settings.join(", ")}. ` +
        `In memory, ${settings.length === 1 ? "it" : "they"} ${verb} replaced by an equivalent; the file stays as it is.`,
    },
  ];
}
