import type { ImportSite } from "../parser/module-record.ts";
import type { SourceText } from "../project/source-text.ts";

import type { Binding, ImportedInFile, Reference } from "../uses/references.ts";
import { ImportLines } from "./import-lines.ts";
import { accessText } from "./naming.ts";
import type { TextEdit } from "./text-edits.ts";

/** What replaces an outside export. */
export interface Replacement {
  /** Member of the adapter's object, for callers that adopt new names. */
  readonly member?: string | undefined;
  /** Method of that object that creates what callers construct. */
  readonly factory?: string | undefined;
  /** Type of the target. */
  readonly type?: string | undefined;
  /** Exported name in the adapter's module, for callers that keep their names. */
  readonly reexportedAs?: string | undefined;
}

/** Where callers are moved to. */
export interface Destination {
  /** Whether callers keep their names, so that only imports change. */
  readonly keepsNames: boolean;
  /** Name of the adapter's object. */
  readonly object: string;
  /** Returns the replacement of an export; `undefined` if there is none and the caller must stay. */
  readonly of: (specifier: string, name: string) => Replacement | undefined;
  /** Whether the adapter's module re-exports the outside one or one of its namespaces completely. */
  readonly reexportsAll: (specifier: string) => boolean;
  /** Whether the adapter's module imports it, so that its side effects run. */
  readonly touches: (specifier: string) => boolean;
  /** Specifiers of the adapter's and the target's modules in a file. */
  readonly specifiers: (source: SourceText) => { readonly adapter: string; readonly target: string };
}

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
  { bindings, references, statements, names }: ImportedInFile,
  to: Destination,
): MovedFile {
  const edits: TextEdit[] = [];
  const stays: Stay[] = [];
  const specifiers = to.specifiers(source);
  const taken = takenNames(names, bindings, references, to);
  const localObject = freeName(to.object, taken);
  const rewriter = new Rewriter(source.text, to, localObject, taken);
  let imports = 0;
  let isObjectImported = false;
  const importedTypes = new Set<string>();
  for (const site of sites) {
    const ofSite = bindings.filter((binding) => binding.site === site);
    const mentioned = references.filter((reference) => reference.site === site);
    if (site.isComputed) {
      stays.push({ offset: site.offset, reason: "its specifier is computed", of: undefined });
      continue;
    }
    const isStatic = site.forms.every((form) => STATIC.has(form)) && ofSite.length > 0;
    if (!isStatic) {
      const names = [
        ...new Set([
          ...site.names,
          ...ofSite.map((binding) => binding.export),
          ...mentioned.map((reference) => reference.export),
        ]),
      ];
      const reason = whyNotReexported(source.text, site, names, mentioned, to);
      if (reason !== undefined) stays.push({ offset: site.offset, reason, of: undefined });
      else {
        edits.push(...specifierEdit(source.text, site, specifiers.adapter));
        imports++;
      }
      continue;
    }
    const statement = statements.get(site);
    const fates = ofSite.map((binding) => fateOf(binding, mentioned, to));
    const plain = fates.every((fate, index) => fate.kind === "handed" && fate.name === ofSite[index]?.export);
    if (!statement || plain) {
      edits.push(...specifierEdit(source.text, site, specifiers.adapter));
      imports++;
      continue;
    }
    const lines = new ImportLines(source.text, site, statement);
    ofSite.forEach((binding, index) => {
      const fate = fates[index] as Fate;
      const usedReferences = mentioned.filter((reference) => isOf(reference, binding));
      if (fate.kind === "stays") {
        stays.push({
          offset: binding.node.getStart(),
          reason: fate.reason,
          of: { specifier: site.specifier, name: binding.export },
        });
        lines.keep(binding);
      } else if (fate.kind === "handed") {
        lines.importFromAdapter(specifiers.adapter, fate.name, binding.local, binding.isTypeOnly);
        edits.push(...rewriter.renameMembers(binding, usedReferences));
      } else {
        const needs = rewriter.rewrite(usedReferences, edits);
        if (needs.object && !isObjectImported) {
          isObjectImported = true;
          lines.importFromAdapter(specifiers.adapter, to.object, localObject, false);
        }
        for (const [exported, { local, isTypeOnly }] of needs.handed)
          lines.importFromAdapter(specifiers.adapter, exported, local, isTypeOnly);
        for (const [type, local] of needs.types) {
          if (importedTypes.has(type)) continue;
          importedTypes.add(type);
          lines.importFromAdapter(specifiers.target, type, local, true);
        }
        if (usedReferences.length === 0) lines.touch(specifiers.adapter, binding.isTypeOnly);
      }
    });
    // An import whose names all stay is left unchanged.
    if (fates.every(({ kind }) => kind === "stays")) continue;
    imports++;
    const isLast = source.sites.length === 1 && !/\bexport\b/.test(source.text);
    edits.push(lines.edit(isLast));
  }
  return { edits, imports, references: rewriter.count, stays };
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

function isRewritable({ kind }: Reference, { member, factory, type }: Replacement): boolean {
  switch (kind) {
    case "type":
      return type !== undefined;
    case "new":
      return factory !== undefined || member !== undefined;
    case "call":
    case "read":
    case "shorthand":
    case "instanceof":
    case "type query":
      return member !== undefined;
    case "export":
    case "extend":
    case "jsx":
    case "metadata":
    case "write":
      return false;
  }
}

function isImportable({ kind }: Reference, { reexportedAs }: Replacement): boolean {
  return reexportedAs !== undefined && reexportedAs !== "default" && kind !== "export" && kind !== "write";
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

function freeName(name: string, taken: ReadonlySet<string>): string {
  if (!taken.has(name)) return name;
  const ported = `${name}Port`;
  for (let count = 1; ; count++) {
    const candidate = count === 1 ? ported : `${ported}${count}`;
    if (!taken.has(candidate)) return candidate;
  }
}

/** What a file must import for its rewritten references. */
interface Needs {
  readonly object: boolean;
  /** Types of the target, with their local names. */
  readonly types: ReadonlyMap<string, string>;
  /** Exports of the adapter's module, with their local names. */
  readonly handed: ReadonlyMap<string, { readonly local: string; readonly isTypeOnly: boolean }>;
}

/** Rewrites references to their replacements. */
class Rewriter {
  count = 0;
  readonly #text: string;
  readonly #to: Destination;
  readonly #object: string;
  readonly #taken: ReadonlySet<string>;

  constructor(text: string, to: Destination, object: string, taken: ReadonlySet<string>) {
    this.#text = text;
    this.#to = to;
    this.#object = object;
    this.#taken = taken;
  }

  /** Adds the edits, and returns what the file must import for them. */
  rewrite(references: readonly Reference[], edits: TextEdit[]): Needs {
    let object = false;
    const types = new Map<string, string>();
    const handed = new Map<string, { readonly local: string; readonly isTypeOnly: boolean }>();
    for (const reference of references) {
      const { start, end, kind, site } = reference;
      const replacement = this.#to.of(site.specifier, reference.export) ?? {};
      const { member, factory, type, reexportedAs } = replacement;
      if (reexportedAs !== undefined && !isRewritable(reference, replacement)) {
        const [exported = reexportedAs, ...nested] = reexportedAs.split(".");
        const earlier = handed.get(exported);
        const local = earlier?.local ?? freeName(exported, this.#taken);
        handed.set(exported, { local, isTypeOnly: (earlier?.isTypeOnly ?? true) && kind === "type" });
        const text = [local, ...nested].join(".");
        edits.push({
          start,
          end,
          text: kind === "shorthand" ? `${this.#text.slice(start, end)}: ${text}` : text,
        });
        this.count++;
        continue;
      }
      if (kind === "type" && type !== undefined) {
        // A name that the file uses for something else stays unchanged.
        const isOwn = type === this.#text.slice(start, end) || !this.#taken.has(type);
        const local = isOwn ? type : freeName(type, this.#taken);
        types.set(type, local);
        if (this.#text.slice(start, end) !== local) edits.push({ start, end, text: local });
        this.count++;
        continue;
      }
      object = true;
      this.count++;
      if (kind === "new" && factory !== undefined) edits.push(this.#factoryCall(reference, factory));
      else if (kind === "shorthand")
        edits.push({ start: end, end, text: `: ${this.#object}${accessText(member ?? "")}` });
      else edits.push({ start, end, text: `${this.#object}${accessText(member ?? "")}` });
    }
    return { object, types, handed };
  }

  /** Members of a namespace whose names differ in the adapter's module. */
  renameMembers(binding: Binding, references: readonly Reference[]): TextEdit[] {
    if (binding.export !== "*" || this.#to.reexportsAll(binding.site.specifier)) return [];
    return references.flatMap(({ site, export: name, kind, start, end }) => {
      // Elements name no factory.
      if (kind === "jsx") return [];
      const handed = this.#to.of(site.specifier, name)?.reexportedAs;
      if (handed === undefined || handed === name) return [];
      this.count++;
      return [{ start, end, text: `${binding.local}${accessText(handed)}` }];
    });
  }

  /** `new Crane("PE-1")` as `cranes.createCrane("PE-1")`. */
  #factoryCall({ node, end }: Reference, factory: string): TextEdit {
    const construction = node.parent;
    const from = construction.getStart();
    const hasArguments = construction.end > end && /\)\s*$/.test(this.#text.slice(end, construction.end));
    const call = `${this.#object}${accessText(factory)}`;
    return { start: from, end, text: hasArguments ? call : `${call}()` };
  }
}
