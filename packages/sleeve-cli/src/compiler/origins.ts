import { type Checker, type Symbol as CompilerSymbol, SymbolFlags } from "typescript/unstable/sync";
import { specifierOf } from "./syntax.ts";

/** Where something that is used was declared. */
export interface Origin {
  /** The name under which it was declared, whatever it is called where it is used. */
  readonly name: string;
  /** The class, interface or enumeration that it is a member of. */
  readonly owner: string | undefined;
  /** The file that declares it, or the specifier it was imported by where the compiler found no declaration. */
  readonly from: { readonly path: string } | { readonly specifier: string };
}

/** Tells the files of the packages of interest, and the project's own, from all others. */
export interface Ownership {
  /** Whether a file is part of a package of interest. */
  readonly isOfInterest: (path: string) => boolean;
  /** Whether a file is one of the project's own. */
  readonly isOwn: (path: string) => boolean;
  /** What a file imports from a package under a local name, where the import itself says it. */
  readonly importedAs: (path: string, local: string) => ImportedName | undefined;
}

export interface ImportedName {
  readonly specifier: string;
  readonly name: string;
}

/** Finds out where symbols come from, and remembers it, as each question crosses to another process. */
export class Origins {
  static readonly #kept = new WeakMap<Ownership, Map<Checker, Origins>>();
  readonly #checker: Checker;
  readonly #ownership: Ownership;
  readonly #found = new Map<number, Origin | undefined>();

  /** The one that serves a checker, whatever file it is asked about: symbols are the same in all of them. */
  static for(checker: Checker, ownership: Ownership): Origins {
    const kept = Origins.#kept.get(ownership) ?? new Map<Checker, Origins>();
    Origins.#kept.set(ownership, kept);
    const origins = kept.get(checker) ?? new Origins(checker, ownership);
    kept.set(checker, origins);
    return origins;
  }

  private constructor(checker: Checker, ownership: Ownership) {
    this.#checker = checker;
    this.#ownership = ownership;
  }

  of(symbol: CompilerSymbol): Origin | undefined {
    if (!this.#found.has(symbol.id)) {
      // Aliases can run in a circle.
      this.#found.set(symbol.id, undefined);
      this.#found.set(symbol.id, this.#find(symbol));
    }
    return this.#found.get(symbol.id);
  }

  /** Whether the symbol is declared outside the project, in no package of interest. */
  isForeign(symbol: CompilerSymbol): boolean {
    return (
      symbol.declarations.length > 0 && symbol.declarations.every(({ path }) => !this.#ownership.isOwn(path))
    );
  }

  #find(symbol: CompilerSymbol): Origin | undefined {
    const own = symbol.declarations.find(({ path }) => this.#ownership.isOwn(path));
    if ((symbol.flags & SymbolFlags.Alias) === 0) return this.#declared(symbol, symbol);
    if (!own) return this.#declared(symbol, this.#checker.getAliasedSymbol(symbol));
    const imported = this.#ownership.importedAs(own.path, symbol.name);
    if (imported) {
      return { name: imported.name, owner: undefined, from: { specifier: imported.specifier } };
    }
    const next = this.#checker.getImmediateAliasedSymbol(symbol);
    if (!next || this.#checker.isUnknownSymbol(next)) return this.#untyped(symbol);
    const origin = this.of(next);
    return origin?.name === "default" ? { ...origin, name: symbol.name } : origin;
  }

  /** `entry` is what the package exports, and `target` what that stands for. */
  #declared(entry: CompilerSymbol, target: CompilerSymbol): Origin | undefined {
    const declaration = [entry, target]
      .flatMap(({ declarations }) => declarations)
      .find(({ path }) => this.#ownership.isOfInterest(path));
    // The module itself, as a namespace import names it, is no member of the package.
    if (!declaration || target.name.startsWith('"')) return undefined;
    const parent = target.getParent();
    const owner = parent && (parent.flags & OWNERS) !== 0 && !isInternal(parent) ? parent.name : undefined;
    const name = /^(default|export=)$/.test(entry.name) ? target.name : entry.name;
    return { name, owner, from: { path: declaration.path } };
  }

  /** What was imported from a package without types is known by the import alone. */
  #untyped(alias: CompilerSymbol): Origin | undefined {
    const declaration = alias.declarations[0]?.resolve();
    const specifier = declaration && specifierOf(declaration);
    return specifier === undefined ? undefined : { name: alias.name, owner: undefined, from: { specifier } };
  }
}

/** Whether the compiler made the name up, as for a type that has none. */
export function isInternal({ name }: CompilerSymbol): boolean {
  return name.startsWith("__");
}

const OWNERS = SymbolFlags.Class | SymbolFlags.Interface | SymbolFlags.Enum | SymbolFlags.TypeAlias;
