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
}

/** Finds out where symbols come from, and remembers it, as each question crosses to another process. */
export class Origins {
  readonly #checker: Checker;
  readonly #ownership: Ownership;
  readonly #found = new Map<number, Origin | undefined>();

  constructor(checker: Checker, ownership: Ownership) {
    this.#checker = checker;
    this.#ownership = ownership;
  }

  of(symbol: CompilerSymbol): Origin | undefined {
    if (!this.#found.has(symbol.id)) this.#found.set(symbol.id, this.#find(symbol));
    return this.#found.get(symbol.id);
  }

  /** Whether the symbol is declared outside the project, in no package of interest. */
  isForeign(symbol: CompilerSymbol): boolean {
    return (
      symbol.declarations.length > 0 && symbol.declarations.every(({ path }) => !this.#ownership.isOwn(path))
    );
  }

  #find(symbol: CompilerSymbol): Origin | undefined {
    const entry = this.#entryOf(symbol);
    const isAlias = (entry.flags & SymbolFlags.Alias) !== 0;
    const target = isAlias ? this.#checker.getAliasedSymbol(entry) : entry;
    if (isAlias && this.#checker.isUnknownSymbol(target)) return this.#untyped(entry);
    const declaration = [entry, target]
      .flatMap(({ declarations }) => declarations)
      .find(({ path }) => this.#ownership.isOfInterest(path));
    // The module itself, as a namespace import names it, is no member of the package.
    if (!declaration || (target.flags & SymbolFlags.ValueModule) !== 0) return undefined;
    const parent = target.getParent();
    const owner = parent && (parent.flags & OWNERS) !== 0 && !isInternal(parent) ? parent.name : undefined;
    const name =
      [entry, target, symbol].map((each) => each.name).find((each) => each !== "default") ?? "default";
    return { name, owner, from: { path: declaration.path } };
  }

  /** What an import names, followed through the project's own barrels up to where it leaves the project. */
  #entryOf(symbol: CompilerSymbol): CompilerSymbol {
    let entry = symbol;
    while (
      (entry.flags & SymbolFlags.Alias) !== 0 &&
      entry.declarations.some(({ path }) => this.#ownership.isOwn(path))
    ) {
      const next = this.#checker.getImmediateAliasedSymbol(entry);
      if (!next || this.#checker.isUnknownSymbol(next)) return entry;
      entry = next;
    }
    return entry;
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
