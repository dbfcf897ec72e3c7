import { isPublic } from "../compiler/symbols.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Node,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
} from "../compiler/typescript.ts";
import type { UsedMembers } from "../uses/members/used-members.ts";
import { stringLiteral } from "../written-text.ts";
import { isData, isPlainRecord, localParametersOf, parametersOfAlias } from "./data-types.ts";
import { LanguageBases } from "./language-bases.ts";
import { type OutsideAlias, OutsideAliases, ownerAlias } from "./outside-aliases.ts";
import type { OutsidePath, OutsidePaths } from "./outside-paths.ts";
import { type TypeImport, TypeImports, type TypeOrigin } from "./type-imports.ts";
import { declaredSignature, declaredWords } from "./writing/declared-source.ts";
import type { SignatureParts } from "./writing/signature-parts.ts";
import {
  type Direction,
  memberKey,
  type Owner,
  type TypeNames,
  Uncopiable,
  type WrittenMember,
} from "./writing/type-names.ts";
import { asTypeName, docOf, entryOf, enumMember, mentionsName } from "./writing/type-text.ts";
import { TypeWriter } from "./writing/type-writer.ts";

/** How far a type is our own: reduced to what is used, only passed around, or an alias of the outside type. */
export type TypeForm = "own" | "opaque" | "aliased";

/** The type in a target that replaces an outside one. */
export interface CopiedType {
  readonly name: string;
  /** Identifies it among the choices of a draft. */
  readonly key: string;
  readonly form: TypeForm;
  /** Its name in the outside module. */
  readonly outsideName: string;
  /** `<T extends Load>`, or empty. */
  readonly parameters: string;
  readonly parameterNames: readonly string[];
  /** Types of the language that it extends: `Error`, `Array<Load>`. */
  readonly bases: readonly string[];
  readonly doc: string | undefined;
  /** Whether it is an object of the outside module that callers pass back in. */
  readonly isPassedBack: boolean;
  /** Members of an interface; `undefined` for an alias. */
  readonly members: readonly WrittenMember[] | undefined;
  /** The aliased type. */
  readonly text: string;
  /** Names of the other copied types that it mentions. */
  readonly mentions: readonly string[];
}

export interface CopiedTypesOptions {
  readonly checker: Checker;
  readonly originOf: (path: string) => TypeOrigin;
  /** The name under which one of our files exports something. */
  readonly exportedAs: (path: string, symbol: CompilerSymbol) => string | undefined;
  readonly used: UsedMembers;
  readonly paths: OutsidePaths;
  /** Results of an earlier round. */
  readonly facts: TypeFacts;
  /** Types and members that are aliased, by their keys. */
  readonly aliased: ReadonlySet<string>;
  /** Configured names of copied types. */
  readonly names: Readonly<Record<string, string>>;
  /** Names that are not available. */
  readonly taken: ReadonlySet<string>;
}

/** What is known of the types only when all are written. */
export interface TypeFacts {
  /** Keys of the types that the project passes in. */
  readonly goesIn: ReadonlySet<string>;
  /** Keys of the members that other types read: `out` in `Config["out"]`. */
  readonly neededMembers: ReadonlySet<string>;
  /** Positions of type parameters that the reduced types do not use, by key. */
  readonly unusedParameters: ReadonlyMap<string, ReadonlySet<number>>;
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
  readonly #imports: TypeImports;
  readonly #language: LanguageBases;
  readonly #mentions: Mention[] = [];
  readonly #aliases = new OutsideAliases();
  /** Members of outside objects that are written, by their keys. */
  readonly #members = new Set<string>();
  readonly #unusedParameters = new Map<string, ReadonlySet<number>>();
  readonly #needed = new Set<string>();
  /** Keys of the types that constrain type parameters. */
  readonly #constraints = new Set<string>();
  /** The declared types of those that are written as interfaces, by key. */
  readonly #declared = new Map<string, Type>();
  /** Reasons why types cannot be copied, by key. */
  readonly #reasons = new Map<string, string>();
  /** Aliases that cannot be copied, but can be expanded. */
  readonly #writtenOut = new Set<string>();
  #writing: string | undefined;

  constructor(options: CopiedTypesOptions) {
    this.#options = options;
    this.#language = new LanguageBases(options.checker, options.originOf);
    const isTaken = (name: string) =>
      options.taken.has(name) || [...this.#own.values()].some((item) => item.name === name);
    this.#imports = new TypeImports(options.exportedAs, isTaken);
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
    const { name } = this.#entryFor(key, symbol) ?? this.#alias(key, symbol);
    this.#mentions.push({ by: this.#writing, of: key, direction: "out" });
    return name;
  }

  types(): readonly CopiedType[] {
    return [...this.#own.values()].flatMap(({ type }) => type ?? []);
  }

  /** The outside types that are mentioned as aliases. */
  aliased(): readonly OutsideAlias[] {
    return this.#aliases.all();
  }

  /** Keys of all types and members that are written, and may be aliased instead. */
  written(): readonly string[] {
    return [...this.#own.keys(), ...this.#members];
  }

  /** Reasons why types are aliased, by key. */
  reasons(): ReadonlyMap<string, string> {
    return this.#reasons;
  }

  facts(): TypeFacts {
    const goesIn = this.#goesIn();
    this.#needToFit(goesIn);
    return {
      goesIn,
      neededMembers: this.#needed,
      unusedParameters: this.#unusedParameters,
    };
  }

  /** Notes the members by which an object of one type can be passed in as another. */
  #needToFit(goesIn: ReadonlySet<string>): void {
    const { checker } = this.#options;
    const copies = [...this.#own].flatMap(([key, { type }]) => {
      const declared = this.#declared.get(key);
      return type && declared ? [{ key, type, declared }] : [];
    });
    const objects = copies.filter(
      ({ type, declared }) => type.members && (type.form === "opaque" || !isData(checker, declared)),
    );
    const taken = copies.filter(
      ({ key, type, declared }) =>
        this.#constraints.has(key) || (type.members && goesIn.has(key) && isData(checker, declared)),
    );
    for (const { key, type, declared } of taken)
      for (const object of objects) {
        const names =
          type.members?.map(({ name }) => name) ??
          checker
            .getPropertiesOfType(declared)
            .filter(({ flags }) => (flags & SymbolFlags.Optional) === 0)
            .map(({ name }) => name);
        // The arguments of a generic constraint are unknown here, so its names decide.
        const fits = this.#constraints.has(key)
          ? names.length > 0 &&
            names.every((name) => checker.getPropertyOfType(object.declared, name) !== undefined)
          : checker.isTypeAssignableTo(object.declared, declared);
        if (object.key === key || !fits) continue;
        for (const name of names) {
          const member = checker.getPropertyOfType(object.declared, name);
          const needed = member && memberKey(member);
          if (needed !== undefined) this.#needed.add(needed);
        }
      }
  }

  /** Returns the name for the type of an outside value, as in `typeof pick`. */
  ofValue(path: OutsidePath, preferredName: string): string {
    const type = { ...path, isOfValue: true, parameters: "", parameterNames: [] };
    return this.#aliases.name(type, () => this.#free(preferredName, `Outside${preferredName}`));
  }

  isAliased(member: CompilerSymbol): boolean {
    const key = memberKey(member);
    if (key === undefined) return false;
    this.#members.add(key);
    return this.#options.aliased.has(key);
  }

  imports(): readonly TypeImport[] {
    return this.#imports.all();
  }

  /** Keys of the types that are passed in, directly or inside others. */
  #goesIn(): ReadonlySet<string> {
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

  nameOfValue(symbol: CompilerSymbol): string | undefined {
    const path = symbol.declarations[0]?.path;
    if (path === undefined) return undefined;
    switch (this.#options.originOf(path)) {
      case "language":
        return this.#imports.globalName(symbol);
      case "ours":
        return this.#imports.nameOfOurs(symbol, path);
      case "outside":
        return undefined;
    }
  }

  isWanted(member: CompilerSymbol, owner: Type, direction: Direction): boolean {
    const { used, facts, checker } = this.#options;
    const { goesIn } = facts;
    // Our type extends the same type of the language.
    if (this.#language.isKept(member.getParent())) {
      const names = this.#language.basesOf(owner).map((base) => base.getSymbol()?.name);
      if (names.includes(member.getParent()?.name)) return false;
    }
    if (used.has(member) || facts.neededMembers.has(memberKey(member) ?? "")) return true;
    if ((member.flags & SymbolFlags.Optional) !== 0) return false;
    // Callers that pass a value in must provide all of its required members.
    const key = keyOf(owner.getAliasSymbol() ?? owner.getSymbol());
    if (key !== undefined) return goesIn.has(key) && isData(checker, owner);
    return direction === "in" || (this.#writing !== undefined && goesIn.has(this.#writing));
  }

  constrain(constraint: Type): void {
    const key = keyOf(constraint.getAliasSymbol() ?? constraint.getSymbol());
    if (key !== undefined) this.#constraints.add(key);
  }

  need(owner: Type, index: Type): void {
    const { checker } = this.#options;
    const constraint = owner.isTypeParameter() ? checker.getBaseConstraintOfType(owner) : owner;
    if (!constraint) return;
    const names = (index.isUnionType() ? index.getTypes() : [index]).flatMap((part) =>
      part.isStringLiteralType() ? [part.value] : [],
    );
    for (const name of names) {
      const member = checker.getPropertyOfType(constraint, name);
      const key = member && memberKey(member);
      if (key !== undefined) this.#needed.add(key);
    }
  }

  takesInstances(signature: Signature): boolean {
    const { checker, originOf, aliased } = this.#options;
    const isInstance = (type: Type): boolean => {
      if (type.isUnionType()) return type.getTypes().some(isInstance);
      const symbol = type.getSymbol();
      const [declaration] = symbol?.declarations ?? [];
      if (!symbol || !declaration || originOf(declaration.path) !== "outside") return false;
      const isObject = (symbol.flags & (SymbolFlags.Class | SymbolFlags.Interface)) !== 0;
      return isObject && !aliased.has(keyOf(symbol) ?? "") && !isData(checker, type);
    };
    return signature.getParameters().some((_, index) => {
      const type = checker.getParameterType(signature, index);
      return type !== undefined && isInstance(type);
    });
  }

  isUsed(member: CompilerSymbol): boolean {
    return this.#options.used.isNamed(member);
  }

  isOnlyReceiver(symbol: CompilerSymbol): boolean {
    return this.#options.used.isOnlyReceiver(symbol);
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

  /** Returns the types of the language that an outside type extends and that a reduced type keeps. */
  #basesOf(declared: Type): readonly string[] {
    return this.#language.basesOf(declared).flatMap((base) => {
      const symbol = base.getSymbol();
      return symbol ? (this.nameOf(symbol, base, "out") ?? []) : [];
    });
  }

  #languageName(
    symbol: CompilerSymbol,
    type: Type,
    isAlias: boolean,
    direction: Direction,
  ): string | undefined {
    return `${this.#imports.globalName(symbol)}${this.#arguments(symbol, type, isAlias, direction)}`;
  }

  #importedName(
    symbol: CompilerSymbol,
    path: string,
    type: Type,
    isAlias: boolean,
    direction: Direction,
  ): string | undefined {
    if (isAlias && this.#options.exportedAs(path, symbol) === undefined) return undefined;
    const name = this.#imports.nameOfOurs(symbol, path);
    return `${name}${this.#arguments(symbol, type, isAlias, direction)}`;
  }

  #ownName(symbol: CompilerSymbol, type: Type, isAlias: boolean, direction: Direction): string | undefined {
    const owner = (symbol.flags & SymbolFlags.EnumMember) !== 0 ? symbol.getParent() : undefined;
    if (owner) return enumMember(this.own(owner), symbol);
    const key = keyOf(symbol);
    const entry = key === undefined ? undefined : this.#entryFor(key, symbol);
    if (key === undefined || !entry) return undefined;
    this.#mentions.push({ by: this.#writing, of: key, direction });
    return `${entry.name}${this.#arguments(symbol, type, isAlias, direction)}`;
  }

  aliasOf(symbol: CompilerSymbol, type: Type, direction: Direction): string {
    const key = keyOf(symbol);
    if (key === undefined) throw new Uncopiable("it has no name");
    const { name } = this.#own.get(key) ?? this.#alias(key, symbol);
    this.#mentions.push({ by: this.#writing, of: key, direction });
    const isAlias = (symbol.flags & SymbolFlags.TypeAlias) !== 0;
    return `${name}${this.#arguments(symbol, type, isAlias, direction)}`;
  }

  /** Returns the type for an outside one; `undefined` for an alias that can only be expanded. */
  #entryFor(key: string, symbol: CompilerSymbol): { readonly name: string } | undefined {
    const copied = this.#own.get(key);
    if (copied) return copied;
    const isAlias = (symbol.flags & SymbolFlags.TypeAlias) !== 0;
    const isEnum = (symbol.flags & SymbolFlags.Enum) !== 0;
    if (isEnum) this.#reasons.set(key, "it is an enumeration");
    if (isEnum || this.#options.aliased.has(key)) return this.#alias(key, symbol);
    if (this.#writtenOut.has(key)) return undefined;
    try {
      return this.attempt(() => this.#make(key, symbol, isAlias));
    } catch (error) {
      if (!(error instanceof Uncopiable)) throw error;
      this.#reasons.set(key, error.reason);
      if (!isAlias || this.#isFunction(symbol)) return this.#alias(key, symbol);
      // Another alias that cannot be copied may still be expanded.
      this.#writtenOut.add(key);
      return undefined;
    }
  }

  #isFunction(symbol: CompilerSymbol): boolean {
    const { checker } = this.#options;
    const declared = checker.getDeclaredTypeOfSymbol(symbol);
    return checker.getSignaturesOfType(declared, SignatureKind.Call).length > 0;
  }

  /** Creates an alias of an outside type. @throws {Uncopiable} if no export leads to it */
  #alias(key: string, symbol: CompilerSymbol): { readonly name: string } {
    const path = this.#pathTo(symbol);
    const name = this.#aliases.name(path, () => this.#freeName(symbol));
    const type: CopiedType = {
      name,
      key,
      form: "aliased",
      outsideName: symbol.name,
      parameters: path.parameters,
      parameterNames: path.parameterNames,
      bases: [],
      isPassedBack: false,
      doc: undefined,
      members: undefined,
      text: "",
      mentions: [],
    };
    this.#own.set(key, { name, type });
    return { name };
  }

  /** Returns an outside type as the owner of members that are aliased. */
  #ownerOf(symbol: CompilerSymbol, local: readonly Type[]): string {
    const path = this.#pathTo(symbol);
    const { name: ownerName, isOfValue } = ownerAlias(symbol.name, path);
    const name = this.#aliases.name({ ...path, isOfValue }, () =>
      this.#free(`Outside${ownerName}`, `Outside${ownerName}Type`),
    );
    const names = local.flatMap((parameter) => parameter.getSymbol()?.name ?? []);
    return `${name}${names.length > 0 ? `<${names.join(", ")}>` : ""}`;
  }

  #pathTo(symbol: CompilerSymbol): Omit<OutsideAlias, "name"> {
    const path = this.#options.paths.to(symbol);
    if (!path) throw new Uncopiable(`${symbol.name} is not exported`);
    // Only a nested name needs an alias with type parameters; an export can be re-exported.
    const declared = path.names.length > 1 ? declaredParameters(symbol) : [];
    const list = declared.map(({ node }) => this.#outsideWords(node));
    return {
      ...path,
      isOfValue: false,
      parameters: list.length > 0 ? `<${list.join(", ")}>` : "",
      parameterNames: declared.map(({ name }) => name),
    };
  }

  #make(key: string, symbol: CompilerSymbol, isAlias: boolean): { name: string } {
    const { checker, facts } = this.#options;
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
    const typeParameters = isAlias ? parametersOfAlias(checker, declaration) : localParametersOf(declared);
    const unused = facts.unusedParameters.get(key);
    const local = typeParameters.filter((_, index) => !unused?.has(index));
    this.#declared.set(key, declared);
    const isRecord = !isAlias || (typeParameters.length === 0 && isPlainRecord(checker, declared));
    const owner = () => this.#ownerOf(symbol, local);
    const parameterNames = local.flatMap((parameter) => parameter.getSymbol()?.name ?? []);
    const { parameters, bases, members, identity, text } = this.writer.inScope(
      [...typeParameters, declared],
      "alone",
      () => {
        const typeMembers = isRecord ? this.writer.members(declared, "out", owner) : undefined;
        return {
          parameters: this.writer.typeParameters(local, "out"),
          bases: isRecord ? this.#basesOf(declared) : [],
          members: typeMembers,
          identity: typeMembers ? this.#identityOf(key, declared, typeMembers, parameterNames, owner) : [],
          text: isRecord ? "" : this.#aliasText(declared, declaration, parameterNames),
        };
      },
    );
    const allMembers = [...(members ?? []), ...identity];
    const source = [text, ...bases, ...allMembers.map((member) => member.text)].join(" ");
    const unusedIndexes = typeParameters.flatMap((parameter, index) =>
      mentionsName(
        `${source} ${parameters.replace(/(?<=[<,] ?)(const )?[\w$]+/g, "")}`,
        parameter.getSymbol()?.name ?? "",
      )
        ? []
        : [index],
    );
    if (typeParameters.length > 0) this.#unusedParameters.set(key, new Set(unusedIndexes));
    entry.type = {
      name: entry.name,
      key,
      form: members && members.length + bases.length === 0 ? "opaque" : "own",
      outsideName: symbol.name,
      parameters,
      parameterNames,
      bases,
      isPassedBack: isRecord && facts.goesIn.has(key) && !isData(checker, declared),
      doc: docOf(checker, symbol),
      members: members && allMembers,
      text,
      mentions: this.#mentions.filter(({ by }) => by === key).map(({ of }) => this.#own.get(of)?.name ?? of),
    };
    this.#writing = outer;
    return entry;
  }

  /**
   * Returns unused members without which a reduced type would accept too much: those that mention its type
   * parameters, and one that a type that is passed in is recognised by.
   */
  #identityOf(
    key: string,
    declared: Type,
    members: readonly WrittenMember[],
    names: readonly string[],
    owner: Owner,
  ): readonly WrittenMember[] {
    const source = () => [...members, ...chosen].map(({ text }) => text).join(" ");
    const chosen: WrittenMember[] = [];
    const missing = () => names.filter((name) => !mentionsName(source(), name));
    const isPassed = this.#options.facts.goesIn.has(key);
    const isEnough = () => missing().length === 0 && (!isPassed || members.length + chosen.length > 0);
    if (isEnough()) return [];
    for (const property of identifying(this.#options.checker, declared, members)) {
      const before = this.#own.size;
      try {
        const attempted = this.attempt((writer) => {
          const [member] = writer.only([property], "out", owner);
          const covers = missing().some((name) => member && mentionsName(member.text, name));
          const isRequired = (property.flags & SymbolFlags.Optional) === 0;
          const isPlain = this.#own.size === before;
          if (
            !member ||
            !(covers || (isPassed && members.length + chosen.length === 0 && isRequired && isPlain))
          )
            throw new Uncopiable("it identifies nothing");
          return member;
        });
        chosen.push(attempted);
      } catch (error) {
        if (!(error instanceof Uncopiable)) throw error;
      }
      if (isEnough()) break;
    }
    if (
      isPassed &&
      members.length + chosen.length === 0 &&
      this.#options.checker.getPropertiesOfType(declared).length > 0
    )
      throw new Uncopiable("it is passed in, and none of its members identifies it");
    return chosen;
  }

  /**
   * Returns the aliased type: by structure or, for a computed type and one whose structure does not mention all
   * type parameters, as declared.
   */
  #aliasText(declared: Type, declaration: Node | undefined, names: readonly string[]): string {
    const { type } = (declaration ?? {}) as { type?: Node };
    const byStructure = () => {
      const text = this.attempt((writer) => writer.structure(declared, "out"));
      if (type && !names.every((name) => mentionsName(text, name)))
        throw new Uncopiable("its structure lacks a type parameter");
      return text;
    };
    try {
      return byStructure();
    } catch (error) {
      if (!(error instanceof Uncopiable) || !type) throw error;
      return this.#words(type);
    }
  }

  declared(signature: Signature): SignatureParts {
    return declaredSignature(signature, (node) => this.#words(node));
  }

  /** Returns a declaration's source, with its outside names replaced. */
  #words(node: Node): string {
    const read = (owner: Type, index: Type) => this.need(owner, index);
    return declaredWords(this.#options.checker, node, read, (symbol) => {
      const path = symbol.declarations[0]?.path;
      if (path === undefined) throw new Uncopiable("it names something that cannot be resolved");
      switch (this.#options.originOf(path)) {
        case "language":
          return this.#imports.globalName(symbol);
        case "ours":
          return this.#imports.nameOfOurs(symbol, path);
        case "outside": {
          const owner = (symbol.flags & SymbolFlags.EnumMember) !== 0 ? symbol.getParent() : undefined;
          return owner ? enumMember(this.own(owner), symbol) : this.own(symbol);
        }
      }
    });
  }

  /** Returns a declaration's source for the file of the aliases, which names outside types directly. */
  #outsideWords(node: Node): string {
    return declaredWords(
      this.#options.checker,
      node,
      () => {},
      (symbol) => {
        const path = symbol.declarations[0]?.path;
        if (path !== undefined && this.#options.originOf(path) === "language") return symbol.name;
        const outside = this.#options.paths.to(symbol);
        if (!outside) throw new Uncopiable(`${symbol.name} is not exported`);
        return `import(${stringLiteral(outside.specifier)}).${outside.names.join(".")}`;
      },
    );
  }

  #arguments(symbol: CompilerSymbol, type: Type, isAlias: boolean, direction: Direction): string {
    const ownArguments = type.isTypeReference() ? this.#options.checker.getTypeArguments(type) : [];
    const typeArguments = isAlias ? type.getAliasTypeArguments() : ownArguments;
    // The compiler may append the type of `this` to the declared parameters.
    const count = isAlias
      ? typeArguments.length
      : localParametersOf(this.#options.checker.getDeclaredTypeOfSymbol(symbol)).length;
    const isAliased = this.#own.get(keyOf(symbol) ?? "")?.type?.form === "aliased";
    const unused = isAliased ? undefined : this.#options.facts.unusedParameters.get(keyOf(symbol) ?? "");
    const types = this.#withoutDefaults(symbol, typeArguments.slice(0, count)).filter(
      (_, index) => !unused?.has(index),
    );
    return types.length > 0 ? `<${types.map((type) => this.writer.write(type, direction)).join(", ")}>` : "";
  }

  /** Drops trailing type arguments that equal the parameters' defaults: `Uint8Array<ArrayBufferLike>`. */
  #withoutDefaults(symbol: CompilerSymbol, typeArguments: readonly Type[]): readonly Type[] {
    const { checker } = this.#options;
    const declared = declaredParameters(symbol);
    let count = typeArguments.length;
    for (; count > 0; count--) {
      const { fallback } = declared[count - 1] ?? {};
      const type = fallback && checker.getTypeFromTypeNode(fallback as never);
      if (!type || type.id !== typeArguments[count - 1]?.id) break;
    }
    return typeArguments.slice(0, count);
  }

  #freeName(symbol: CompilerSymbol): string {
    const { names } = this.#options;
    const preferredName = entryOf(names, `type ${symbol.name}`) ?? entryOf(names, symbol.name) ?? symbol.name;
    const owner = symbol.getParent()?.name ?? "";
    return this.#free(
      preferredName,
      /^[A-Za-z]\w*$/.test(owner) ? `${asTypeName(owner)}${preferredName}` : `Outside${preferredName}`,
    );
  }

  /** Returns the first name that is free: the wanted one, the longer one, or that with a number. */
  #free(preferredName: string, longer: string): string {
    const usedNames = new Set([
      ...[...this.#own.values()].map(({ name }) => name),
      ...this.#imports.all().map(({ local }) => local),
    ]);
    const isFree = (name: string) =>
      !usedNames.has(name) && !this.#options.taken.has(name) && !this.#aliases.has(name);
    if (isFree(preferredName)) return preferredName;
    for (let count = 1; ; count++) {
      const name = count === 1 ? longer : `${longer}${count}`;
      if (isFree(name)) return name;
    }
  }
}

/** A target that needs more types than this does not simplify anything. */
const MOST = 200;

/** Maximum number of members that are tried to identify a type. */
const MOST_TRIED = 12;

/** Returns the members that could identify a type: values before functions, required ones before optional ones. */
function identifying(
  checker: Checker,
  declared: Type,
  members: readonly WrittenMember[],
): readonly CompilerSymbol[] {
  const has = new Set(members.map(({ name }) => name));
  const rank = ({ flags }: CompilerSymbol) =>
    ((flags & SymbolFlags.Method) !== 0 ? 2 : 0) + ((flags & SymbolFlags.Optional) !== 0 ? 1 : 0);
  return checker
    .getPropertiesOfType(declared)
    .filter((property) => isPublic(property) && !has.has(property.name) && !property.name.startsWith("__@"))
    .sort((left, right) => rank(left) - rank(right))
    .slice(0, MOST_TRIED);
}

interface DeclaredParameter {
  readonly name: string;
  readonly node: Node;
  readonly fallback: Node | undefined;
}

function declaredParameters({ declarations }: CompilerSymbol): readonly DeclaredParameter[] {
  const { typeParameters = [] } = (declarations[0]?.resolve() ?? {}) as {
    typeParameters?: readonly (Node & {
      name: Node & { text: string };
      defaultType?: Node;
      default?: Node;
    })[];
  };
  return typeParameters.map((node) => ({
    name: node.name.text,
    node,
    fallback: node.defaultType ?? node.default,
  }));
}

/** Returns the key of a named type among the choices of a draft. */
export function typeKey(symbol: CompilerSymbol): string | undefined {
  return keyOf(symbol);
}

function keyOf(symbol: CompilerSymbol | undefined): string | undefined {
  const declaration = symbol?.declarations[0];
  return declaration && !symbol.name.startsWith("__")
    ? `${declaration.path} ${declaration.index}`
    : undefined;
}

function opposite(direction: Direction): Direction {
  return direction === "out" ? "in" : "out";
}
