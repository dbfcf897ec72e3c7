import type { ImportSite } from "../parser/module-record.ts";
import type { SourceText } from "../project/source-text.ts";

import { type Binding, FILE_SCOPE, type ImportedInFile, type Reference } from "../uses/imported-names.ts";
import { ImportLines } from "./import-lines.ts";
import { type Destination, isImportable, isRewritable } from "./replacement.ts";
import { freeName, Rewriter } from "./rewriter.ts";
import { isWithinSetUp, type SetUp, setUpsIn } from "./set-up.ts";
import { removal, type TextEdit } from "./text-edits.ts";

/** A place that was not moved, and why. */
export interface Stay {
  readonly offset: number;
  readonly reason: string;
  /** The export that it belongs to, if any. */
  readonly of: { readonly specifier: string; readonly name: string } | undefined;
}

export interface MovedFile {
  readonly edits: readonly TextEdit[];
  /** Number of imports that now use the adapter, and of rewritten references. */
  readonly imports: number;
  readonly references: number;
  readonly stays: readonly Stay[];
}

/** What happens to one imported name. */
type Fate =
  | { readonly kind: "stays"; readonly reason: string }
  | { readonly kind: "handed"; readonly name: string }
  | { readonly kind: "rewritten" };

/** Moves a file's uses of an outside module to the adapter. */
export function moveFile(
  source: SourceText,
  sites: readonly ImportSite[],
  imported: ImportedInFile,
  to: Destination,
): MovedFile {
  const move = new FileMove(source, imported, to);
  for (const site of sites) move.add(site);
  return move.result();
}

/** The move of one file, import by import. */
class FileMove {
  readonly #source: SourceText;
  readonly #imported: ImportedInFile;
  readonly #to: Destination;
  readonly #specifiers: ReturnType<Destination["specifiers"]>;
  readonly #localObject: string;
  readonly #rewriter: Rewriter;
  readonly #edits: TextEdit[] = [];
  readonly #stays: Stay[] = [];
  /** Local names that set-up statements use, which the adapter runs. */
  readonly #setUpNames: ReadonlySet<string>;
  readonly #importedTypes = new Set<string>();
  #imports = 0;
  /** Scopes in which the adapter's object is declared. */
  readonly #scopesOfObject = new Set<number>();

  constructor(source: SourceText, all: ImportedInFile, to: Destination) {
    const setUps = to.setUps ? setUpsIn(all).filter(({ key }) => to.setUps?.has(key)) : [];
    const isSetUp = ({ start }: Reference) => isWithinSetUp(setUps, start);
    const imported = { ...all, references: all.references.filter((reference) => !isSetUp(reference)) };
    this.#setUpNames = new Set(all.references.filter(isSetUp).map(({ local }) => local));
    this.#edits.push(...adjoining(source.text, setUps).map((setUp) => removal(source.text, setUp)));
    this.#source = source;
    this.#imported = imported;
    this.#to = to;
    this.#specifiers = to.specifiers(source);
    const taken = takenNames(imported.names, imported.bindings, imported.references, to);
    this.#localObject = freeName(to.object, taken);
    this.#rewriter = new Rewriter(source.text, to, this.#localObject, taken);
  }

  result(): MovedFile {
    return {
      edits: this.#edits,
      imports: this.#imports,
      references: this.#rewriter.count,
      stays: this.#stays,
    };
  }

  add(site: ImportSite): void {
    const bindings = this.#imported.bindings.filter((binding) => binding.site === site);
    const mentioned = this.#imported.references.filter((reference) => reference.site === site);
    const isRequired = this.#imported.statements.get(site)?.kind === "require";
    const isStatic = (isRequired || site.forms.every((form) => STATIC.has(form))) && bindings.length > 0;
    if (site.isComputed) this.#keep(site, "its specifier is computed");
    else if (isStatic) this.#addStatic(site, bindings, mentioned);
    else this.#addOther(site, bindings, mentioned);
  }

  #keep(site: ImportSite, reason: string): void {
    this.#stays.push({ offset: site.offset, reason, of: undefined });
  }

  #useAdapter(site: ImportSite): void {
    this.#edits.push(...specifierEdit(this.#source.text, site, this.#specifiers.adapter));
    this.#imports++;
  }

  /** Dynamic imports, re-exports and imports without names. */
  #addOther(site: ImportSite, bindings: readonly Binding[], mentioned: readonly Reference[]): void {
    const names = new Set([
      ...site.names,
      ...bindings.map((binding) => binding.export),
      ...mentioned.map((reference) => reference.export),
    ]);
    if (bindings.length === 0 && mentioned.length > 0 && this.#canReplace(mentioned)) {
      this.#rewriter.rewriteInPlace(mentioned, this.#specifiers.adapter, this.#edits);
      this.#imports++;
      return;
    }
    const reason = whyNotReexported(this.#source.text, site, [...names], mentioned, this.#to);
    if (reason === undefined) this.#useAdapter(site);
    else this.#keep(site, reason);
  }

  /** Whether references such as `require("crane").lift` can be rewritten where they stand. */
  #canReplace(references: readonly Reference[]): boolean {
    if (this.#to.keepsNames) return false;
    return references.every((reference) => {
      const destination = this.#to.of(reference.site.specifier, reference.export);
      return !reference.keepsName && destination !== undefined && isRewritable(reference, destination);
    });
  }

  #addStatic(site: ImportSite, bindings: readonly Binding[], mentioned: readonly Reference[]): void {
    const statement = this.#imported.statements.get(site);
    const fates = bindings.map((binding) => ({ binding, fate: fateOf(binding, mentioned, this.#to) }));
    const isPlain = fates.every(
      ({ fate, binding }) => fate.kind === "handed" && fate.name === binding.export,
    );
    if (!statement || isPlain) {
      this.#useAdapter(site);
      return;
    }
    const lines = new ImportLines(this.#source.text, site, statement, this.#specifiers.adapter);
    for (const { binding, fate } of fates) {
      const references = mentioned.filter((reference) => isOf(reference, binding));
      this.#moveBinding(lines, binding, fate, references);
    }
    // An import whose names all stay is left unchanged.
    if (fates.every(({ fate }) => fate.kind === "stays")) return;
    this.#imports++;
    const isLast = this.#source.sites.length === 1 && !/\bexport\b/.test(this.#source.text);
    this.#edits.push(lines.edit(isLast));
    this.#edits.push(...statement.destructured.map((range) => removal(this.#source.text, range)));
  }

  #moveBinding(lines: ImportLines, binding: Binding, fate: Fate, references: readonly Reference[]): void {
    switch (fate.kind) {
      case "stays":
        this.#stays.push({
          offset: binding.node.getStart(),
          reason: fate.reason,
          of: { specifier: binding.site.specifier, name: binding.export },
        });
        lines.keep(binding);
        break;
      case "handed":
        lines.importFromAdapter(this.#specifiers.adapter, fate.name, binding.local, binding.isTypeOnly);
        this.#edits.push(...this.#rewriter.renameMembers(binding, references));
        break;
      case "rewritten":
        this.#rewrite(lines, binding, references);
    }
  }

  #rewrite(lines: ImportLines, binding: Binding, references: readonly Reference[]): void {
    const { adapter, target } = this.#specifiers;
    const needs = this.#rewriter.rewrite(references, this.#edits);
    const { scope = FILE_SCOPE } = this.#imported.statements.get(binding.site) ?? {};
    if (needs.object && !this.#scopesOfObject.has(scope)) {
      this.#scopesOfObject.add(scope);
      lines.importFromAdapter(adapter, this.#to.object, this.#localObject, false);
    }
    for (const [exported, { local, isTypeOnly }] of needs.handed)
      lines.importFromAdapter(adapter, exported, local, isTypeOnly);
    for (const [type, local] of needs.types) {
      if (this.#importedTypes.has(type)) continue;
      this.#importedTypes.add(type);
      lines.importFromAdapter(target, type, local, true);
    }
    if (references.length === 0 && !this.#setUpNames.has(binding.local))
      lines.touch(adapter, binding.isTypeOnly);
  }
}

type Range = Pick<SetUp, "start" | "end">;

/** Returns the ranges of statements, in which those that follow each other are one. */
function adjoining(text: string, statements: readonly Range[]): readonly Range[] {
  const ranges: Range[] = [];
  for (const { start, end } of statements) {
    const last = ranges.at(-1);
    const isNext = last !== undefined && text.slice(last.end, start).trim() === "";
    if (isNext) ranges[ranges.length - 1] = { start: last.start, end };
    else ranges.push({ start, end });
  }
  return ranges;
}

/** Returns the names that a file still uses when all references that can be rewritten are. */
function takenNames(
  names: ReadonlyMap<string, number>,
  bindings: readonly Binding[],
  references: readonly Reference[],
  to: Destination,
): ReadonlySet<string> {
  const taken = new Set(names.keys());
  for (const binding of bindings) {
    const usedReferences = references.filter((reference) => isOf(reference, binding));
    const isAll = usedReferences.length === names.get(binding.local);
    if (isAll && fateOf(binding, references, to).kind === "rewritten") taken.delete(binding.local);
  }
  return taken;
}

const STATIC: ReadonlySet<string> = new Set(["named", "default", "namespace", "type"]);

function isOf(reference: Reference, binding: Binding): boolean {
  return reference.site === binding.site && reference.local === binding.local;
}

function fateOf(binding: Binding, references: readonly Reference[], to: Destination): Fate {
  const { site, export: name } = binding;
  const usedReferences = references.filter((reference) => isOf(reference, binding));
  const handed = reexportFate(binding, usedReferences, to);
  if (to.keepsNames) return handed;
  // An import without references may exist for its side effects.
  if (usedReferences.length === 0) return { kind: "rewritten" };
  const canRewrite = usedReferences.every((reference) => {
    const destination = reference.export === "*" ? undefined : to.of(site.specifier, reference.export);
    if (destination === undefined) return false;
    // A member of a namespace that the adapter re-exports is imported by its own name.
    return isRewritable(reference, destination) || (name === "*" && isImportable(reference, destination));
  });
  if (canRewrite) return { kind: "rewritten" };
  return handed.kind === "handed" || name !== "*"
    ? handed
    : { kind: "stays", reason: `${binding.local} is used as a whole value` };
}

function reexportFate(binding: Binding, usedReferences: readonly Reference[], to: Destination): Fate {
  const { site, export: name } = binding;
  if (name !== "*") {
    const handed =
      to.of(site.specifier, name)?.reexportedAs ?? (to.reexportsAll(site.specifier) ? name : undefined);
    if (handed !== undefined) return { kind: "handed", name: handed };
    if (usedReferences.length === 0) return { kind: "rewritten" };
    return { kind: "stays", reason: `the adapter does not export ${name}` };
  }
  if (to.reexportsAll(site.specifier)) return { kind: "handed", name: "*" };
  const missing = usedReferences.find(
    (reference) =>
      reference.export === "*" || to.of(site.specifier, reference.export)?.reexportedAs === undefined,
  );
  if (!missing) return { kind: "handed", name: "*" };
  const what =
    missing.export === "*"
      ? `${binding.local} is used as a whole value`
      : `the adapter does not export ${missing.export}`;
  return { kind: "stays", reason: what };
}

function whyNotReexported(
  text: string,
  site: ImportSite,
  names: readonly string[],
  references: readonly Reference[],
  to: Destination,
): string | undefined {
  if (site.forms.includes("reference")) return "it adds global declarations";
  if (site.forms.includes("jsx")) return "the compiler imports it implicitly, for JSX";
  if (/require\s*\.\s*\w+\s*\(\s*$/.test(text.slice(0, site.offset)))
    return "it only resolves the path of the package";
  if (site.forms.includes("side effect"))
    return to.touches(site.specifier) ? undefined : `the adapter does not import ${site.specifier}`;
  if (to.reexportsAll(site.specifier)) return undefined;
  const importedNames = names.filter((name) => name !== "*");
  const takesAll = site.forms.includes("re-export")
    ? names.includes("*")
    : references.some((reference) => reference.export === "*");
  const isBlind =
    site.forms.some((form) => form === "dynamic" || form === "require") && importedNames.length === 0;
  if (takesAll || isBlind) return "it uses the module as a whole";
  const missing = importedNames.find((name) => to.of(site.specifier, name)?.reexportedAs !== name);
  return missing === undefined ? undefined : `the adapter does not export ${missing}`;
}

function specifierEdit(text: string, { offset }: ImportSite, specifier: string): TextEdit[] {
  const quote = text.charAt(offset);
  const end = text.indexOf(quote, offset + 1);
  return end < 0 ? [] : [{ start: offset + 1, end, text: specifier }];
}
