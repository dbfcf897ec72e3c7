import {
  type Checker,
  type CompilerSymbol,
  type Node,
  type Signature,
  SymbolFlags,
  type Type,
} from "../compiler/typescript.ts";
import type { UsedMembers } from "../uses/used-members.ts";
import { isData, isPlainRecord, localParametersOf, parametersOfAlias } from "./data-types.ts";
import { declaredWords } from "./declared-source.ts";
import { type Direction, type TypeNames, Uncopiable, type WrittenMember } from "./type-names.ts";
import { docOf } from "./type-text.ts";
import { TypeWriter } from "./type-writer.ts";

/** A type of our own that replaces an outside one, reduced to what is used. */
export interface CopiedType {
  readonly name: string;
  /** Its name in the outside module. */
  readonly outsideName: string;
  /** `<T extends Load>`, or empty. */
  readonly parameters: string;
  /** Whether it is an `Error`. */
  readonly isError: boolean;
  readonly doc: string | undefined;
  /** Members of an interface; `undefined` for an alias. */
  readonly members: readonly WrittenMember[] | undefined;
  /** The aliased type. */
  readonly text: string;
  /** Names of the other copied types that it mentions. */
  readonly mentions: readonly string[];
}

/** An import that the copied types need: from one of our files, or a built-in module. */
export interface TypeImport {
  readonly name: string;
  /** Path of a file, or specifier of a built-in module. */
  readonly from: { readonly path: string } | { readonly specifier: string };
}

/** Where a declaration comes from. */
export type TypeOrigin = "language" | "ours" | "outside";

export interface CopiedTypesOptions {
  readonly checker: Checker;
  readonly originOf: (path: string) => TypeOrigin;
  /** The name under which one of our files exports something. */
  readonly exportedAs: (path: string, symbol: CompilerSymbol) => string | undefined;
  readonly used: UsedMembers;
  /** Outside names of types that the project passes in, from an earlier round. */
  readonly goesIn: ReadonlySet<string>;
  /** Configured names of copied types. */
  readonly names: Readonly<Record<string, string>>;
  /** Names that are not available. */
  readonly taken: ReadonlySet<string>;
}

/** A mention of one type in another. */
interface Mention {
  readonly by: string | undefined;
  readonly of: string;
  readonly direction: Direction;
}

/** The types of our own that a target needs, created when they are first mentioned. */
export class CopiedTypes implements TypeNames {
  readonly writer: TypeWriter;
  readonly #options: CopiedTypesOptions;
  readonly #own = new Map<string, { name: string; type: CopiedType | undefined }>();
  readonly #imports = new Map<string, TypeImport>();
  readonly #mentions: Mention[] = [];
  /** Aliases that cannot be copied, but can be expanded. */
  readonly #writtenOut = new Set<string>();
  #writing: string | undefined;

  constructor(options: CopiedTypesOptions) {
    this.#options = options;
    this.writer = new TypeWriter(options.checker, this);
  }

  /**
   * Writes something that needs types. If one cannot be copied, all types created for it are dropped. @throws
   * {Uncopiable}
   */
  attempt<Result>(write: (writer: TypeWriter) => Result): Result {
    const writing = this.#writing;
    const before = new Set(this.#own.keys());
    const mentions = this.#mentions.length;
    try {
      return write(this.writer);
    } catch (error) {
      for (const key of this.#own.keys()) if (!before.has(key)) this.#own.delete(key);
      this.#mentions.length = mentions;
      this.#writing = writing;
      throw error;
    }
  }

  /** Creates the type that replaces an outside one, and returns its name. @throws {Uncopiable} */
  own(symbol: CompilerSymbol): string {
    const key = keyOf(symbol);
    if (key === undefined) throw new Uncopiable("it has no name");
    const isAlias = (symbol.flags & SymbolFlags.TypeAlias) !== 0;
    const { name } = this.#own.get(key) ?? this.#make(key, symbol, isAlias);
    this.#mentions.push({ by: this.#writing, of: key, direction: "out" });
    return name;
  }

  types(): readonly CopiedType[] {
    return [...this.#own.values()].flatMap(({ type }) => type ?? []);
  }

  imports(): readonly TypeImport[] {
    return [...this.#imports.values()];
  }

  /** Keys of the types that are passed in, directly or inside others. */
  goesIn(): ReadonlySet<string> {
    const directions = new Set<string>();
    const add = (key: string, direction: Direction): void => {
      if (directions.has(`${direction} ${key}`)) return;
      directions.add(`${direction} ${key}`);
      for (const mention of this.#mentions)
        if (mention.by === key)
          add(mention.of, mention.direction === "out" ? direction : opposite(direction));
    };
    for (const { by, of, direction } of this.#mentions) if (by === undefined) add(of, direction);
    return new Set(
      [...directions]
        .filter((direction) => direction.startsWith("in "))
        .map((direction) => direction.slice(3)),
    );
  }

  nameOf(symbol: CompilerSymbol, type: Type, direction: Direction): string | undefined {
    const isAlias = (symbol.flags & SymbolFlags.TypeAlias) !== 0;
    const path = symbol.declarations[0]?.path;
    if (path === undefined) return undefined;
    switch (this.#options.originOf(path)) {
      case "language":
        return this.#languageName(symbol, type, isAlias, direction);
      case "ours":
        return this.#importedName(symbol, path, type, isAlias, direction);
      case "outside":
        return this.#ownName(symbol, type, isAlias, direction);
    }
  }

  isWanted(member: CompilerSymbol, owner: Type, direction: Direction): boolean {
    const { used, goesIn, checker } = this.#options;
    // Members that every error has exist on our error types too.
    if (this.#isOfError(member)) return false;
    if (used.has(member)) return true;
    if ((member.flags & SymbolFlags.Optional) !== 0) return false;
    // Callers that pass a value in must provide all of its required members.
    const key = keyOf(owner.getAliasSymbol() ?? owner.getSymbol());
    if (key !== undefined) return goesIn.has(key) && isData(checker, owner);
    return direction === "in" || (this.#writing !== undefined && goesIn.has(this.#writing));
  }

  wanted(member: CompilerSymbol, signatures: readonly Signature[]): readonly Signature[] {
    return this.#options.used.called(member, signatures);
  }

  mostArguments(member: CompilerSymbol): number | undefined {
    return this.#options.used.mostArguments(member);
  }

  called(member: CompilerSymbol): readonly Signature[] {
    return this.#options.used.calls(member);
  }

  #isError(type: Type, depth = 0): boolean {
    if (!type.isClassOrInterface() || depth > 10) return false;
    return this.#options.checker
      .getBaseTypes(type)
      .some((base) => this.#isLanguageError(base.getSymbol()) || this.#isError(base, depth + 1));
  }

  #isLanguageError(symbol: CompilerSymbol | undefined): boolean {
    const path = symbol?.declarations[0]?.path;
    return symbol?.name === "Error" && path !== undefined && this.#options.originOf(path) === "language";
  }

  #isOfError(member: CompilerSymbol): boolean {
    return this.#isLanguageError(member.getParent());
  }

  #languageName(
    symbol: CompilerSymbol,
    type: Type,
    isAlias: boolean,
    direction: Direction,
  ): string | undefined {
    return `${this.#globalName(symbol)}${this.#arguments(symbol, type, isAlias, direction)}`;
  }

  #globalName(symbol: CompilerSymbol): string {
    const scopes: string[] = [];
    for (let at = symbol.getParent(); at; at = at.getParent()) {
      if (/^"/.test(at.name)) {
        const specifier = at.name.slice(1, -1);
        // A type inside a namespace cannot be imported by its own name.
        if (scopes.length > 0) throw new Uncopiable(`${symbol.name} is a part of ${specifier}`);
        this.#imports.set(`${specifier} ${symbol.name}`, {
          name: symbol.name,
          from: { specifier: withScheme(specifier) },
        });
      } else if (at.name !== "globalThis") scopes.unshift(at.name);
    }
    return [...scopes, symbol.name].join(".");
  }

  #nameOfOurs(symbol: CompilerSymbol, path: string): string {
    const name = this.#options.exportedAs(path, symbol);
    if (name === undefined)
      throw new Uncopiable(`${symbol.name} is not exported by the file that declares it`);
    this.#imports.set(`${path} ${name}`, { name, from: { path } });
    return name;
  }

  #importedName(
    symbol: CompilerSymbol,
    path: string,
    type: Type,
    isAlias: boolean,
    direction: Direction,
  ): string | undefined {
    if (isAlias && this.#options.exportedAs(path, symbol) === undefined) return undefined;
    const name = this.#nameOfOurs(symbol, path);
    return `${name}${this.#arguments(symbol, type, isAlias, direction)}`;
  }

  #ownName(symbol: CompilerSymbol, type: Type, isAlias: boolean, direction: Direction): string | undefined {
    const key = keyOf(symbol);
    if (key === undefined) return undefined;
    if ((symbol.flags & SymbolFlags.Enum) !== 0) throw new Uncopiable(`${symbol.name} is an enumeration`);
    if ((symbol.flags & SymbolFlags.EnumMember) !== 0) throw new Uncopiable("it is of an enumeration");
    const entry = this.#entryFor(key, symbol, isAlias);
    if (!entry) return undefined;
    this.#mentions.push({ by: this.#writing, of: key, direction });
    return `${entry.name}${this.#arguments(symbol, type, isAlias, direction)}`;
  }

  #entryFor(key: string, symbol: CompilerSymbol, isAlias: boolean): { readonly name: string } | undefined {
    const known = this.#own.get(key);
    if (known) return known;
    if (!isAlias) return this.#make(key, symbol, isAlias);
    if (this.#writtenOut.has(key)) return undefined;
    try {
      return this.attempt(() => this.#make(key, symbol, isAlias));
    } catch (error) {
      // An alias that cannot be copied may still be expanded.
      if (!(error instanceof Uncopiable)) throw error;
      this.#writtenOut.add(key);
      return undefined;
    }
  }

  #make(key: string, symbol: CompilerSymbol, isAlias: boolean): { name: string } {
    const { checker } = this.#options;
    const entry: { name: string; type: CopiedType | undefined } = {
      name: this.#freeName(symbol),
      type: undefined,
    };
    this.#own.set(key, entry);
    if (this.#own.size > MOST) throw new Uncopiable(`it needs more than ${MOST} other types`);
    const outer = this.#writing;
    this.#writing = key;
    const declared = checker.getDeclaredTypeOfSymbol(symbol);
    const declaration = symbol.declarations[0]?.resolve();
    const local = isAlias ? parametersOfAlias(checker, declaration) : localParametersOf(declared);
    const isRecord = !isAlias || (local.length === 0 && isPlainRecord(checker, declared));
    const { parameters, members, text } = this.writer.inScope(local, "alone", () => ({
      parameters: this.writer.typeParameters(local, "out"),
      members: isRecord ? this.writer.members(declared, "out") : undefined,
      text: isRecord ? "" : this.#aliasText(declared, declaration),
    }));
    entry.type = {
      name: entry.name,
      outsideName: symbol.name,
      parameters,
      isError: isRecord && this.#isError(declared),
      doc: docOf(checker, symbol),
      members,
      text,
      mentions: this.#mentions.filter(({ by }) => by === key).map(({ of }) => this.#own.get(of)?.name ?? of),
    };
    this.#writing = outer;
    return entry;
  }

  /** Returns the aliased type: by structure or, for a computed type, as declared. */
  #aliasText(declared: Type, declaration: Node | undefined): string {
    try {
      return this.attempt((writer) => writer.structure(declared, "out"));
    } catch (error) {
      const { type } = (declaration ?? {}) as { type?: Node };
      if (!(error instanceof Uncopiable) || !type) throw error;
      return this.#words(type);
    }
  }

  declared({ declaration }: Signature): string {
    const node = declaration?.resolve() as
      | (Node & { typeParameters?: readonly Node[]; parameters?: readonly Node[]; type?: Node })
      | undefined;
    if (!node?.type || !node.parameters) throw new Uncopiable("its declaration does not state its types");
    const list = (nodes: readonly Node[]) => nodes.map((node) => this.#words(node)).join(", ");
    const { typeParameters = [] } = node;
    const generic = typeParameters.length > 0 ? `<${list(typeParameters)}>` : "";
    return `${generic}(${list(node.parameters)}): ${this.#words(node.type)}`;
  }

  /** Returns a declaration's source, with its outside names replaced. */
  #words(node: Node): string {
    return declaredWords(this.#options.checker, node, (symbol) => {
      const path = symbol.declarations[0]?.path;
      if (path === undefined) throw new Uncopiable("it names something that cannot be resolved");
      const isAlias = (symbol.flags & SymbolFlags.TypeAlias) !== 0;
      switch (this.#options.originOf(path)) {
        case "language":
          return this.#globalName(symbol);
        case "ours":
          return this.#nameOfOurs(symbol, path);
        case "outside": {
          const key = keyOf(symbol);
          if (key === undefined) throw new Uncopiable(`${symbol.name} has no name of its own`);
          if ((symbol.flags & (SymbolFlags.Enum | SymbolFlags.EnumMember)) !== 0)
            throw new Uncopiable(`${symbol.name} is an enumeration`);
          const entry = this.#own.get(key) ?? this.#make(key, symbol, isAlias);
          this.#mentions.push({ by: this.#writing, of: key, direction: "out" });
          return entry.name;
        }
      }
    });
  }

  #arguments(symbol: CompilerSymbol, type: Type, isAlias: boolean, direction: Direction): string {
    const all = isAlias
      ? type.getAliasTypeArguments()
      : type.isTypeReference()
        ? this.#options.checker.getTypeArguments(type)
        : [];
    // The compiler may append the type of `this` to the declared parameters.
    const count = isAlias
      ? all.length
      : localParametersOf(this.#options.checker.getDeclaredTypeOfSymbol(symbol)).length;
    const types = all.slice(0, count);
    return types.length > 0 ? `<${types.map((type) => this.writer.write(type, direction)).join(", ")}>` : "";
  }

  #freeName(symbol: CompilerSymbol): string {
    const { names, taken } = this.#options;
    const used = new Set([...this.#own.values()].map(({ name }) => name));
    const isFree = (name: string) => !used.has(name) && !taken.has(name);
    const wanted = names[symbol.name] ?? symbol.name;
    if (isFree(wanted)) return wanted;
    const owner = symbol.getParent()?.name ?? "";
    const longer = /^[A-Za-z]\w*$/.test(owner) ? `${owner}${wanted}` : `Outside${wanted}`;
    for (let count = 1; ; count++) {
      const name = count === 1 ? longer : `${longer}${count}`;
      if (isFree(name)) return name;
    }
  }
}

/** A target that needs more types than this does not simplify anything. */
const MOST = 60;

function keyOf(symbol: CompilerSymbol | undefined): string | undefined {
  const first = symbol?.declarations[0];
  return first && !symbol.name.startsWith("__") ? `${first.path} ${first.index}` : undefined;
}

function opposite(direction: Direction): Direction {
  return direction === "out" ? "in" : "out";
}

function withScheme(specifier: string): string {
  return specifier.startsWith("node:") ? specifier : `node:${specifier}`;
}
