import { type Checker, type CompilerSymbol, SymbolFlags, type Type } from "../../compiler/typescript.ts";
import type { UsedMembers } from "../../uses/members/used-members.ts";
import { isInternal } from "../../uses/origins.ts";
import { stringLiteral } from "../../written-text.ts";
import { OutsideAliases, ownerAlias } from "../outside-aliases.ts";
import type { OutsidePath } from "../outside-paths.ts";
import { TypeImports, type TypeOrigin } from "../type-imports.ts";
import { asTypeName, entryOf, isIdentifierName, isOfDeclared } from "../writing/type-text.ts";
import { ArgumentReader } from "./reading/argument-reader.ts";
import { declarationKeyOf, type Owner, Underivable } from "./reading/derive-context.ts";
import { Owners } from "./reading/owners.ts";
import type { Readers } from "./reading/read-call.ts";
import { signaturesFromCalls } from "./reading/signatures-from-calls.ts";
import { TypeReader } from "./reading/type-reader.ts";
import { ValueUses } from "./reading/value-uses.ts";
import type { DerivedType } from "./shapes/derived-type.ts";
import { identityOf, type Shape, type SignatureShape, someShape, text, UNKNOWN } from "./shapes/shape.ts";
import { TypeDerivation } from "./type-derivation.ts";
import {
  type DerivedTypesOptions,
  type Entry,
  outsideNameOf,
  parametersOf,
  type TypeRegistry,
  typeArgumentsOf,
} from "./type-registry.ts";

/** A target that needs more types than this is better written by hand. */
const MOST_TYPES = 120;

/** Maximum nesting of type arguments. */
const DEEPEST = 12;

/** The named types that a target needs, created when they are first referred to. */
export class DerivedTypes implements TypeRegistry {
  readonly originOf: (path: string) => TypeOrigin;
  readonly imports: TypeImports;
  /** The outside types that the target needs. */
  readonly aliases = new OutsideAliases();
  readonly used: UsedMembers;
  readonly untyped: "unknown" | "any";
  readonly options: DerivedTypesOptions;
  readonly #entries = new Map<string, Entry>();
  readonly #readers = new Map<Checker, Readers>();
  readonly #owners = new Owners();
  /** Names of types that contain themselves, by their ids. */
  readonly #recursive = new Map<number, string>();
  /** The exports under which callers name types, by the keys of the types. */
  readonly #preferredNames = new Map<string, CompilerSymbol>();
  readonly #definitions = new Map<string, DerivedType>();
  #depth = 0;
  readonly #signatures = new Map<string, readonly SignatureShape[] | undefined>();
  readonly #valueUses: ValueUses;
  readonly #derivation: TypeDerivation;
  /** The instances in the order in which they were referred to. */
  readonly #journal: { readonly entry: Entry; readonly id: string }[] = [];
  /** Members whose signatures are being derived. */
  readonly #open = new Set<string>();

  constructor(options: DerivedTypesOptions) {
    this.options = options;
    this.#valueUses = new ValueUses(options.files);
    this.#derivation = new TypeDerivation(this);
    this.originOf = options.originOf;
    this.used = options.used;
    this.untyped = options.untyped;
    this.imports = new TypeImports(options.exportedAs, (name) => this.isTaken(name));
  }

  entryOf(key: string): Entry | undefined {
    return this.#entries.get(key);
  }

  readersOf(checker: Checker): Readers {
    const known = this.#readers.get(checker);
    if (known) return known;
    const types = new TypeReader(checker, this);
    const readers = { types, args: new ArgumentReader(checker, types) };
    this.#readers.set(checker, readers);
    return readers;
  }

  isTaken(name: string): boolean {
    const names = [...[...this.#entries.values()].map((entry) => entry.name), ...this.#recursive.values()];
    return this.options.taken.has(name) || names.includes(name) || this.aliases.has(name);
  }

  /** Returns the name of a type of the target. */
  nameOf(key: string): string {
    return this.#entries.get(key)?.name ?? this.#definitions.get(key)?.name ?? key;
  }

  ownerOf(checker: Checker, type: Type): Owner | undefined {
    // What is used of a type of the target belongs to that type, not to those that extend it.
    const keys = this.#owners.keysOf(checker, type, this.options.known);
    if (keys.length === 0) return undefined;
    return { keys: new Set(keys), own: new Set(this.#owners.namesOf(checker, type)) };
  }

  isUsedOn(symbol: CompilerSymbol, owner: Owner | undefined): boolean {
    if (!this.used.has(symbol)) return false;
    return owner === undefined || this.used.ownersOf(symbol).some((use) => this.#owners.isOf(use, owner));
  }

  signaturesOf(symbol: CompilerSymbol, owner: Owner | undefined): readonly SignatureShape[] | undefined {
    const member = declarationKeyOf(symbol);
    if (member === undefined || this.used.isRead(symbol)) return undefined;
    const key = `${member} ${owner ? this.#owners.idOf(owner) : ""}`;
    if (this.#signatures.has(key)) return this.#signatures.get(key);
    const sites = this.used
      .callSites(symbol)
      .filter(({ call, checker }) => !owner || this.#owners.isCallOf(call, checker, owner));
    if (sites.length === 0) return undefined;
    if (this.#open.has(key)) throw new Underivable("its calls depend on each other");
    this.#open.add(key);
    try {
      const signatures = signaturesFromCalls(sites, (checker) => this.readersOf(checker));
      this.#signatures.set(key, signatures);
      return signatures;
    } finally {
      this.#open.delete(key);
    }
  }

  callsOf(symbol: CompilerSymbol, kind: "call" | "new"): readonly SignatureShape[] {
    const sites = this.#valueUses.of(symbol, kind);
    return sites.length === 0 ? [] : signaturesFromCalls(sites, (checker) => this.readersOf(checker));
  }

  isNamed(symbol: CompilerSymbol): boolean {
    return this.options.namedSymbols.has(declarationKeyOf(symbol) ?? "");
  }

  isIterated(symbol: CompilerSymbol): boolean {
    return this.#valueUses.of(symbol, "iterate").length > 0;
  }

  assignedTo(symbol: CompilerSymbol): readonly Shape[] {
    return this.used.assignedTo(symbol).flatMap(({ value, checker }) => {
      const type = checker.getTypeOfSymbol(symbol);
      const assigned = checker.getTypeAtLocation(value);
      if (!assigned || (type && checker.isTypeAssignableTo(assigned, type))) return [];
      return [this.readersOf(checker).args.value(value, undefined)];
    });
  }

  reference(checker: Checker, symbol: CompilerSymbol, type: Type): Shape {
    const key = declarationKeyOf(symbol);
    if (key === undefined) throw new Underivable("it has no declaration");
    if ((symbol.flags & SymbolFlags.Enum) !== 0) throw new Underivable("it is an enumeration");
    const { types } = this.readersOf(checker);
    const entry = this.entry(key, symbol, checker);
    const args = this.#nested(() =>
      typeArgumentsOf(checker, symbol, type).map((argument) => types.read(argument)),
    );
    const id = args.map(identityOf).join();
    if (!entry.instances.has(id)) {
      entry.instances.set(id, { type, checker, args });
      this.#journal.push({ entry, id });
    }
    return { kind: "reference", key, args };
  }

  recursive(type: Type): Shape {
    const symbol = type.getSymbol();
    const suggested =
      symbol && isIdentifierName(symbol.name) && !symbol.name.startsWith("__") ? symbol.name : "Part";
    const known = this.#recursive.get(type.id);
    const name = known ?? this.freeName(`${asTypeName(suggested)}Value`, undefined);
    this.#recursive.set(type.id, name);
    return { kind: "reference", key: `recursive ${name}`, args: [] };
  }

  defined(type: Type, shape: Shape): Shape {
    const name = this.#recursive.get(type.id);
    if (name === undefined) return shape;
    const key = `recursive ${name}`;
    const derived = { key, name, outsideName: name, parameters: [], bases: [], shape, doc: undefined };
    this.#definitions.set(key, { ...derived, alias: undefined });
    return { kind: "reference", key, args: [] };
  }

  /** Reads something. If that returns `undefined` or throws, the instances it has referred to do not count. */
  attempt<Result>(read: () => Result | undefined): Result | undefined {
    const start = this.#journal.length;
    let result: Result | undefined;
    try {
      result = read();
    } finally {
      if (result === undefined)
        for (const { entry, id } of this.#journal.splice(start)) entry.instances.delete(id);
    }
    return result;
  }

  /** Creates the type for an outside type that callers name, whatever its type arguments are. */
  named(checker: Checker, exported: CompilerSymbol): Shape & { readonly kind: "reference" } {
    const symbol = this.#renamed(checker, exported);
    const key = declarationKeyOf(symbol);
    if (key === undefined) throw new Underivable("it has no declaration");
    if ((symbol.flags & SymbolFlags.Enum) !== 0) throw new Underivable("it is an enumeration");
    this.#preferredNames.set(key, exported);
    this.entry(key, symbol, checker);
    const parameters = parametersOf(checker, symbol);
    return { kind: "reference", key, args: parameters.map(() => UNKNOWN) };
  }

  /** Returns the type that an alias is another name of. */
  #renamed(checker: Checker, symbol: CompilerSymbol): CompilerSymbol {
    if ((symbol.flags & SymbolFlags.TypeAlias) === 0 || parametersOf(checker, symbol).length > 0)
      return symbol;
    const declared = checker.getDeclaredTypeOfSymbol(symbol);
    const alias = declared.getAliasSymbol();
    if (alias && declarationKeyOf(alias) !== declarationKeyOf(symbol) && this.#isOutside(alias)) return alias;
    const named = declared.getSymbol();
    const isName = named && isOfDeclared(declared) && !isInternal(named) && this.#isOutside(named);
    return isName && parametersOf(checker, named).length === 0 ? named : symbol;
  }

  #isOutside({ declarations: [declaration] }: CompilerSymbol): boolean {
    return declaration !== undefined && this.originOf(declaration.path) === "outside";
  }

  #nested<Result>(read: () => Result): Result {
    if (this.#depth >= DEEPEST) throw new Underivable("its type arguments are nested too deeply");
    this.#depth++;
    try {
      return read();
    } finally {
      this.#depth--;
    }
  }

  entry(key: string, symbol: CompilerSymbol, checker: Checker): Entry {
    const known = this.#entries.get(key);
    if (known) return known;
    if (this.#entries.size >= MOST_TYPES) throw new Underivable(`it needs more than ${MOST_TYPES} types`);
    const entry: Entry = {
      key,
      symbol,
      checker,
      name: this.#freeName(this.#preferredNames.get(key) ?? symbol),
      instances: new Map(),
      derived: undefined,
    };
    this.#entries.set(key, entry);
    return entry;
  }

  #freeName(symbol: CompilerSymbol): string {
    const { names } = this.options;
    const outsideName = outsideNameOf(symbol);
    const preferredName =
      entryOf(names, `type ${outsideName}`) ?? entryOf(names, outsideName) ?? asTypeName(outsideName);
    return this.freeName(preferredName, symbol.getParent()?.name);
  }

  /** Returns a name that nothing else has: the preferred one, with that of its owner, or with a number. */
  freeName(preferredName: string, owner: string | undefined): string {
    const imported = new Set(this.imports.all().map(({ local }) => local));
    const isFree = (name: string) => !this.isTaken(name) && !imported.has(name);
    if (isFree(preferredName)) return preferredName;
    const longer =
      owner !== undefined && isIdentifierName(owner)
        ? `${asTypeName(owner)}${preferredName}`
        : `Outside${preferredName}`;
    for (let count = 1; ; count++) {
      const name = count === 1 ? longer : `${longer}${count}`;
      if (isFree(name)) return name;
    }
  }

  /** Derives all types that are referred to, and the types that these refer to. */
  complete(): readonly DerivedType[] {
    for (let isChanged = true; isChanged; ) {
      isChanged = false;
      for (const entry of this.#entries.values()) {
        if (entry.derived) continue;
        entry.derived = this.#derivedOrAlias(entry);
        isChanged = true;
      }
    }
    return [
      ...[...this.#entries.values()].flatMap(({ derived }) => derived ?? []),
      ...this.#definitions.values(),
    ];
  }

  /** Returns the keys of all types of the target. */
  keys(): ReadonlySet<string> {
    return new Set(this.#entries.keys());
  }

  /** Returns the keys of the types that need their type parameters, given all shapes of the target. */
  genericKeys(shapes: readonly Shape[]): ReadonlySet<string> {
    const keys = new Set<string>(this.options.generic);
    const isParameter = (shape: Shape) => someShape(shape, ({ kind }) => kind === "parameter");
    for (const { key, instances } of this.#entries.values()) {
      const all = [...instances.values()].filter(({ args }) => args.length > 0);
      const isVarying = all.length > 1 || all.some(({ args }) => args.some(isParameter));
      if (isVarying || instances.size === 0) keys.add(key);
    }
    const types = [...this.#entries.values()].flatMap(({ derived }) => derived?.shape ?? []);
    for (const shape of [...shapes, ...types])
      someShape(shape, (part) => {
        if (part.kind === "reference" && part.args.some(isParameter)) keys.add(part.key);
        return false;
      });
    return keys;
  }

  /** Derives a type; one that cannot follow from use is an alias of the outside type. */
  #derivedOrAlias(entry: Entry): DerivedType {
    const chosen = this.options.aliased.get(entry.key);
    const reason = chosen !== undefined && this.options.paths.to(entry.symbol) ? chosen : undefined;
    try {
      if (reason !== undefined) throw new Underivable(reason);
      return this.attempt(() => this.#derivation.derive(entry)) as DerivedType;
    } catch (error) {
      if (!(error instanceof Underivable)) throw error;
      return this.#alias(entry, error.message);
    }
  }

  #alias({ key, symbol, checker, name }: Entry, reason: string): DerivedType {
    const path = this.options.paths.to(symbol);
    if (!path) throw new Underivable(`${reason}, and ${symbol.name} is not exported`);
    const parameters = parametersOf(checker, symbol);
    if (path.names.length > 1 && parameters.length > 0)
      throw new Underivable(`${reason}, and ${symbol.name} is a generic type in a namespace`);
    const aliasName = this.aliases.name(
      { ...path, isOfValue: false, parameters: "", parameterNames: [] },
      () => name,
    );
    const shapes = parameters.map((parameter) => ({
      name: parameter.getSymbol()?.name ?? "T",
      constraint: undefined,
    }));
    const common = { key, name: aliasName, outsideName: outsideNameOf(symbol), doc: undefined };
    return { ...common, parameters: shapes, bases: [], shape: UNKNOWN, alias: reason };
  }

  aliasOfMember(checker: Checker, owner: Type, member: CompilerSymbol): Shape | undefined {
    const symbol = owner.getAliasSymbol() ?? owner.getSymbol();
    const path = symbol && this.options.paths.to(symbol);
    if (!symbol || !path || parametersOf(checker, symbol).length > 0) return undefined;
    const { name: ownerName, isOfValue } = ownerAlias(symbol.name, path);
    const name = this.aliases.name({ ...path, isOfValue, parameters: "", parameterNames: [] }, () =>
      this.freeName(`Outside${asTypeName(ownerName)}`, undefined),
    );
    return text(`${name}[${stringLiteral(member.name)}]`);
  }

  /** Returns the type of an outside value, as an alias. */
  ofValue(path: OutsidePath, preferredName: string): string {
    const type = { ...path, isOfValue: true, parameters: "", parameterNames: [] };
    return this.aliases.name(type, () => this.freeName(preferredName, undefined));
  }
}
