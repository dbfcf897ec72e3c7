import { specifierOf } from "../compiler/syntax.ts";
import { type Checker, type CompilerSymbol, SymbolFlags } from "../compiler/typescript.ts";

/** Where a used symbol was declared. */
export interface Origin {
  /** Its declared name, regardless of local aliases. */
  readonly name: string;
  /** The class, interface or enumeration that it is a member of. */
  readonly owner: string | undefined;
  /**
   * The declaring file; the module's name if a file of the project declares the module; or the import specifier if the
   * compiler found no declaration.
   */
  readonly from: { readonly path: string } | { readonly specifier: string };
}

/** Distinguishes files of the packages of interest, the project's own files, and all others. */
export interface Ownership {
  /** Whether a file belongs to a package of interest. */
  readonly isOfInterest: (path: string) => boolean;
  /** Whether a module that a declaration file of the project declares belongs to a package of interest. */
  readonly isModuleOfInterest: (name: string) => boolean;
  /** Whether a file is one of the project's own. */
  readonly isOwn: (path: string) => boolean;
  /** Returns the package export behind a local name, if the import itself states it. */
  readonly importedAs: (path: string, local: string) => ImportedName | undefined;
}

export interface ImportedName {
  readonly specifier: string;
  readonly name: string;
}

/** Finds and caches the origins of symbols, because each request crosses to another process. */
export class Origins {
  static readonly #kept = new WeakMap<Ownership, Map<Checker, Origins>>();
  readonly #checker: Checker;
  readonly #ownership: Ownership;
  readonly #found = new Map<number, Origin | undefined>();

  /** Returns the instance for a checker; symbols are the same in all files. */
  static for(checker: Checker, ownership: Ownership): Origins {
    const byChecker = Origins.#kept.get(ownership) ?? new Map<Checker, Origins>();
    Origins.#kept.set(ownership, byChecker);
    const origins = byChecker.get(checker) ?? new Origins(checker, ownership);
    byChecker.set(checker, origins);
    return origins;
  }

  private constructor(checker: Checker, ownership: Ownership) {
    this.#checker = checker;
    this.#ownership = ownership;
  }

  of(symbol: CompilerSymbol): Origin | undefined {
    if (!this.#found.has(symbol.id)) {
      // Aliases may be circular.
      this.#found.set(symbol.id, undefined);
      this.#found.set(symbol.id, this.#find(symbol));
    }
    return this.#found.get(symbol.id);
  }

  /** Whether a symbol is declared outside the project, in no package of interest. */
  isForeign(symbol: CompilerSymbol): boolean {
    return (
      symbol.declarations.length > 0 && symbol.declarations.every(({ path }) => !this.#ownership.isOwn(path))
    );
  }

  #find(symbol: CompilerSymbol): Origin | undefined {
    const ownDeclaration = symbol.declarations.find(({ path }) => this.#ownership.isOwn(path));
    if ((symbol.flags & SymbolFlags.Alias) === 0) return this.#declared(symbol, symbol);
    if (!ownDeclaration) return this.#declared(symbol, this.#checker.getAliasedSymbol(symbol));
    const imported = this.#ownership.importedAs(ownDeclaration.path, symbol.name);
    if (imported) {
      return { name: imported.name, owner: undefined, from: { specifier: imported.specifier } };
    }
    const next = this.#checker.getImmediateAliasedSymbol(symbol);
    if (!next || this.#checker.isUnknownSymbol(next)) return this.#untyped(symbol);
    return this.of(next);
  }

  /** `entry` is the package's export, and `target` what it resolves to. */
  #declared(entry: CompilerSymbol, target: CompilerSymbol): Origin | undefined {
    const declaration = [entry, target]
      .flatMap(({ declarations }) => declarations)
      .find(({ path }) => this.#ownership.isOfInterest(path));
    // The module itself, as a namespace import names it, is not a member of the package.
    if (target.name.startsWith('"')) return undefined;
    const module = declaration ? undefined : this.#declaredModuleOf(target);
    if (!declaration && module === undefined) return undefined;
    const parent = target.getParent();
    const owner = parent && (parent.flags & OWNERS) !== 0 && !isInternal(parent) ? parent.name : undefined;
    // Compilers write `_default` for a default export without a name.
    const declared = target.name === "_default" ? "default" : target.name;
    const name = /^(default|export=)$/.test(entry.name) ? declared : entry.name;
    return { name, owner, from: declaration ? { path: declaration.path } : { specifier: module ?? "" } };
  }

  /** Returns the module of interest that a declaration file of the project declares a symbol in. */
  #declaredModuleOf(symbol: CompilerSymbol): string | undefined {
    if (!symbol.declarations.some(({ path }) => /\.d\.[cm]?ts$/.test(path))) return undefined;
    let outermost = symbol;
    for (let parent = symbol.getParent(); parent; parent = parent.getParent()) outermost = parent;
    const [, name] = /^"([^/].*)"$/.exec(outermost.name) ?? [];
    return name !== undefined && this.#ownership.isModuleOfInterest(name) ? name : undefined;
  }

  /** A symbol imported from a package without types is known only by its import. */
  #untyped(alias: CompilerSymbol): Origin | undefined {
    const declaration = alias.declarations[0]?.resolve();
    const specifier = declaration && specifierOf(declaration);
    return specifier === undefined ? undefined : { name: alias.name, owner: undefined, from: { specifier } };
  }
}

/** Whether the compiler generated the name, for an anonymous type. */
export function isInternal({ name }: CompilerSymbol): boolean {
  return name.startsWith("__");
}

const OWNERS = SymbolFlags.Class | SymbolFlags.Interface | SymbolFlags.Enum | SymbolFlags.TypeAlias;
