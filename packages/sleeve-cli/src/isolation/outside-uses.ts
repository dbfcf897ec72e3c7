import { relative, sep } from "node:path";
import {
  type Binding,
  type ImportedInFile,
  importedIn,
  isCallable,
  isCallableModule,
  type Reference,
  type ReferenceKind,
} from "../compiler/references.ts";
import type { CompilerSymbol } from "../compiler/syntax.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { comparePlaces, compareText, type Place } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { PackageImport } from "../project/outside-imports.ts";
import { builtInOf, packageNameOf } from "../project/packages.ts";
import type { SourceText } from "../project/project-sources.ts";

/** A file that imports an outside module. */
export interface ImportingFile {
  readonly source: SourceText;
  readonly sites: readonly ImportSite[];
  readonly imported: ImportedInFile;
}

/** One export of an outside module that the project uses. */
export interface UsedExport {
  readonly specifier: string;
  readonly name: string;
  readonly symbol: CompilerSymbol | undefined;
  readonly kinds: ReadonlySet<ReferenceKind>;
  readonly references: readonly (Reference & { readonly source: SourceText })[];
  readonly places: readonly Place[];
  /** Whether some file names it in an import, rather than through a namespace. */
  readonly isImportedByName: boolean;
}

/** A place where a module, or a part of it, is taken whole. */
export interface TakenWhole {
  readonly specifier: string;
  readonly place: Place;
}

/** What a project uses of one outside module. */
export interface OutsideUses {
  readonly files: readonly ImportingFile[];
  readonly exports: readonly UsedExport[];
  /** Where the module is taken whole, so that what is used of it cannot be told. */
  readonly whole: readonly TakenWhole[];
  /** What is imported for nothing but what that does. */
  readonly touched: readonly string[];
  /** Whether it is a function or a class where it is taken whole, which nothing but itself can stand for. */
  readonly isCallable: boolean;
}

/** Gathers what a project uses of an outside module, file by file; files that are let off do not count. */
export function outsideUsesOf(
  project: OpenProject,
  outside: string,
  isLetOff: (file: string) => boolean,
): OutsideUses {
  const files = importingFiles(project, outside).filter(({ source }) => !isLetOff(source.file));
  const gathered = new Gathered(project);
  for (const file of files) gathered.take(file);
  const { whole, touched, isCallable } = gathered;
  return {
    files,
    exports: gathered.exports(),
    whole: whole.sort((left, right) => comparePlaces(left.place, right.place)),
    touched: [...touched].sort(),
    isCallable,
  };
}

function importingFiles(project: OpenProject, outside: string): readonly ImportingFile[] {
  const byPath = new Map<string, PackageImport[]>();
  for (const each of project.imports) {
    if (each.package !== outside) continue;
    const known = byPath.get(each.source.path);
    if (known) known.push(each);
    else byPath.set(each.source.path, [each]);
  }
  return [...byPath]
    .sort(([left], [right]) => compareText(left, right))
    .flatMap(([path, imports]) => {
      const [first] = imports;
      const sites = imports.map(({ site, source }) => ({
        ...site,
        specifier: specifierOf(project, source, site),
      }));
      return first
        ? [{ source: first.source, sites, imported: importedIn(project.program, path, sites) }]
        : [];
    });
}

/** By what a module is named wherever it is imported: files of the project's own by their paths from its folder. */
export function specifierOf(
  { program, root }: OpenProject,
  { path }: SourceText,
  { specifier, offset }: ImportSite,
): string {
  if (packageNameOf(specifier) !== undefined || builtInOf(specifier) !== undefined)
    return builtInOf(specifier) ?? specifier;
  const target = program.resolveModule(path, { offset });
  return target === undefined ? specifier : relative(root, target).split(sep).join("/");
}

interface Entry {
  readonly specifier: string;
  readonly name: string;
  symbol: CompilerSymbol | undefined;
  readonly kinds: Set<ReferenceKind>;
  readonly references: (Reference & { readonly source: SourceText })[];
  readonly places: Place[];
  isImportedByName: boolean;
}

class Gathered {
  readonly whole: TakenWhole[] = [];
  readonly touched = new Set<string>();
  isCallable = false;
  readonly #project: OpenProject;
  readonly #entries = new Map<string, Entry>();

  constructor(project: OpenProject) {
    this.#project = project;
  }

  take({ source, sites, imported: { bindings, references } }: ImportingFile): void {
    for (const binding of bindings) this.#takeBinding(source, binding, references);
    for (const reference of references) {
      const place = this.#project.placeOf(source, reference.start);
      if (reference.export === "*") {
        this.whole.push({ specifier: reference.site.specifier, place });
        this.isCallable ||= isCallable(this.#project.program, source.path, reference);
        continue;
      }
      const entry = this.#entry(reference.site.specifier, reference.export, reference.symbol);
      entry.kinds.add(reference.kind);
      entry.references.push({ ...reference, source });
      entry.places.push(place);
    }
    for (const site of sites) this.#takeSite(source, site, bindings, references);
  }

  exports(): readonly UsedExport[] {
    return [...this.#entries.values()]
      .map((each) => ({ ...each, places: each.places.sort(comparePlaces) }))
      .sort((a, b) => compareText(a.specifier, b.specifier) || compareText(a.name, b.name));
  }

  #takeBinding(source: SourceText, binding: Binding, references: readonly Reference[]): void {
    if (binding.export === "*") return;
    const entry = this.#entry(binding.site.specifier, binding.export, binding.symbol);
    entry.isImportedByName = true;
    const isUsed = references.some(({ site, local }) => site === binding.site && local === binding.local);
    if (!isUsed) entry.places.push(this.#project.placeOf(source, binding.node.getStart()));
  }

  /** What a site hands on or takes without binding a name. */
  #takeSite(
    source: SourceText,
    site: ImportSite,
    bindings: readonly Binding[],
    references: readonly Reference[],
  ): void {
    const place = this.#project.placeOf(source, site.offset);
    if (site.forms.includes("re-export")) {
      if (site.names.includes("*")) this.whole.push({ specifier: site.specifier, place });
      for (const name of site.names) {
        if (name === "*") continue;
        const entry = this.#entry(site.specifier, name, exportOf(this.#project, source, site, name));
        entry.kinds.add("export");
        entry.isImportedByName = true;
        entry.places.push(place);
      }
      return;
    }
    if (site.forms.includes("side effect")) this.touched.add(site.specifier);
    const isExpression = site.forms.some((form) => form === "dynamic" || form === "require");
    const isBound =
      bindings.some((each) => each.site === site) || references.some((each) => each.site === site);
    if (!isExpression || isBound) return;
    this.whole.push({ specifier: site.specifier, place });
    this.isCallable ||= isCallableModule(this.#project.program, source.path, site);
  }

  #entry(specifier: string, name: string, symbol: CompilerSymbol | undefined): Entry {
    const key = `${specifier}\0${name}`;
    const known = this.#entries.get(key);
    if (known) {
      known.symbol ??= symbol;
      return known;
    }
    const made: Entry = {
      specifier,
      name,
      symbol,
      kinds: new Set(),
      references: [],
      places: [],
      isImportedByName: false,
    };
    this.#entries.set(key, made);
    return made;
  }
}

/** What a module exports under a name, asked by a site that binds none. */
function exportOf(
  { program }: OpenProject,
  { path }: SourceText,
  { offset }: ImportSite,
  name: string,
): CompilerSymbol | undefined {
  return program.exportOfModule(path, offset, name);
}
