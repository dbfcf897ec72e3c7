import type { CompilerSymbol } from "../../compiler/syntax.ts";
import type { Place } from "../../documents/place.ts";
import type { ImportSite } from "../../parser/module-record.ts";
import { comparePlaces, compareText } from "../../place.ts";
import type { OpenProject } from "../../project/open-project.ts";
import type { PackageImport } from "../../project/packages/outside-imports.ts";
import type { SourceText } from "../../project/source-text.ts";
import type { Binding, ImportedInFile, Reference, ReferenceKind } from "../../uses/imported-names.ts";
import { importedIn, isCallable, isCallableModule } from "../../uses/references.ts";

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
  /** Whether a file imports it by name rather than through a namespace. */
  readonly isImportedByName: boolean;
}

/** A place that uses a module or one of its namespaces as a whole. */
export interface TakenWhole {
  readonly specifier: string;
  readonly place: Place;
}

/** A project's uses of one outside module. */
export interface OutsideUses {
  readonly files: readonly ImportingFile[];
  readonly exports: readonly UsedExport[];
  /** Places that use the module as a whole, so that its used members are unknown. */
  readonly whole: readonly TakenWhole[];
  /** Specifiers imported for their side effects. */
  readonly touched: readonly string[];
  /** Whether it is a function or class that is used as a whole, which only itself can replace. */
  readonly isCallable: boolean;
}

/** Collects a project's uses of an outside module, file by file; excluded files do not count. */
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
  for (const site of project.imports) {
    if (site.package !== outside) continue;
    const entries = byPath.get(site.source.path);
    if (entries) entries.push(site);
    else byPath.set(site.source.path, [site]);
  }
  return [...byPath]
    .sort(([left], [right]) => compareText(left, right))
    .flatMap(([path, imports]) => {
      const [firstImport] = imports;
      const sites = imports.map(({ site, specifier }) => ({ ...site, specifier }));
      if (!firstImport) return [];
      const imported = withTemplateUses(importedIn(project.program, path, sites), firstImport.source);
      return [{ source: firstImport.source, sites, imported }];
    });
}

/**
 * Adds the names that a component uses outside its scripts. As with a name that a file exports, the name must stay
 * as it is.
 */
function withTemplateUses(imported: ImportedInFile, { component }: SourceText): ImportedInFile {
  if (!component) return imported;
  // The code of the template repeats names of the component, which stay as they are.
  const inScript = imported.references.filter(({ start }) => start < component.text.length);
  const usedBindings = imported.bindings.filter(
    ({ local, isTypeOnly }) => !isTypeOnly && component.names.has(local),
  );
  const references = usedBindings.map(({ site, export: exported, local, node, symbol }): Reference => {
    const start = node.getStart();
    return {
      site,
      export: exported,
      local,
      kind: "export",
      start,
      end: start,
      node,
      symbol,
      keepsName: false,
    };
  });
  return { ...imported, references: [...inScript, ...references] };
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
      .map((entry) => ({ ...entry, places: entry.places.sort(comparePlaces) }))
      .sort((a, b) => compareText(a.specifier, b.specifier) || compareText(a.name, b.name));
  }

  #takeBinding(source: SourceText, binding: Binding, references: readonly Reference[]): void {
    if (binding.export === "*") return;
    const entry = this.#entry(binding.site.specifier, binding.export, binding.symbol);
    entry.isImportedByName = true;
    const isUsed = references.some(({ site, local }) => site === binding.site && local === binding.local);
    if (!isUsed) entry.places.push(this.#project.placeOf(source, binding.node.getStart()));
  }

  /** Adds what a site re-exports or uses without binding a name. */
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
      bindings.some((binding) => binding.site === site) ||
      references.some((reference) => reference.site === site);
    if (!isExpression || isBound) return;
    this.whole.push({ specifier: site.specifier, place });
    this.isCallable ||= isCallableModule(this.#project.program, source.path, site);
  }

  #entry(specifier: string, name: string, found: CompilerSymbol | undefined): Entry {
    // Every name of a module that is declared without types leads to the module.
    const symbol = found?.name === `"${specifier}"` ? undefined : found;
    const key = `${specifier}\0${name}`;
    const earlier = this.#entries.get(key);
    if (earlier) {
      earlier.symbol ??= symbol;
      return earlier;
    }
    const entry: Entry = {
      specifier,
      name,
      symbol,
      kinds: new Set(),
      references: [],
      places: [],
      isImportedByName: false,
    };
    this.#entries.set(key, entry);
    return entry;
  }
}

/** Returns the module's export for a site that binds no names. */
function exportOf(
  { program }: OpenProject,
  { path }: SourceText,
  { offset }: ImportSite,
  name: string,
): CompilerSymbol | undefined {
  return program.exportOfModule(path, offset, name);
}
