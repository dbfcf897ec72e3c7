import {
  type Checker,
  type CompilerSymbol,
  type Node,
  type Signature,
  SymbolFlags,
  SyntaxKind,
  type Type,
} from "../../compiler/typescript.ts";
import { RESERVED } from "../../isolation/naming.ts";
import { localParametersOf } from "../../types/data-types.ts";
import type { OutsidePath, OutsidePaths } from "../../types/outside-paths.ts";
import type { TypeOrigin } from "../../types/type-imports.ts";
import { TypeImports } from "../../types/type-imports.ts";
import { declaredSignature, declaredWords } from "../../types/writing/declared-source.ts";
import type { SignatureParts } from "../../types/writing/signature-parts.ts";
import { type Direction, type TypeNames, Uncopiable } from "../../types/writing/type-names.ts";
import { asTypeName, enumMember, isIdentifierName } from "../../types/writing/type-text.ts";

export interface ReferencedTypesOptions {
  readonly checker: Checker;
  readonly originOf: (path: string) => TypeOrigin;
  /** The name under which one of our files exports something. */
  readonly exportedAs: (path: string, symbol: CompilerSymbol) => string | undefined;
  /** How the types of an outside module are reached. */
  readonly paths: OutsidePaths;
  /** How the type is reached that was found through the module that exports it; `undefined` for any other. */
  readonly pathOfTarget: (symbol: CompilerSymbol) => OutsidePath | undefined;
  /** Names that are not available. */
  readonly taken: ReadonlySet<string>;
}

/** An import of a generated file: from one of our files, a built-in module, or an outside module. */
export interface ReferencedImport {
  readonly name: string;
  readonly local: string;
  readonly from: { readonly path: string } | { readonly specifier: string };
}

/**
 * Names types by importing them from where they are exported. A type that nothing exports is written out, and one that
 * cannot be written out is an error.
 */
export class ReferencedTypes implements TypeNames {
  readonly #options: ReferencedTypesOptions;
  readonly #imports: TypeImports;
  readonly #outside = new Map<string, ReferencedImport>();
  #write: (type: Type, direction: Direction) => string = () => "unknown";

  constructor(options: ReferencedTypesOptions) {
    this.#options = options;
    this.#imports = new TypeImports(options.exportedAs, (name) => this.#isTaken(name));
  }

  /** Sets the writer that writes type arguments. */
  writeWith(write: (type: Type, direction: Direction) => string): void {
    this.#write = write;
  }

  imports(): readonly ReferencedImport[] {
    return [...this.#imports.all(), ...this.#outside.values()];
  }

  attempt<Result>(write: () => Result): Result {
    return write();
  }

  nameOf(symbol: CompilerSymbol, type: Type, direction: Direction): string | undefined {
    const isMember = (symbol.flags & SymbolFlags.EnumMember) !== 0;
    const owner = isMember ? symbol.getParent() : undefined;
    if (owner) {
      const name = this.bareName(owner);
      return name && enumMember(name, symbol);
    }
    const name = this.bareName(symbol);
    if (name !== undefined) return `${name}${this.#arguments(symbol, type, direction)}`;
    // An alias can be written out; an interface or class cannot.
    if ((symbol.flags & SymbolFlags.TypeAlias) !== 0) return undefined;
    throw new Uncopiable(`${symbol.name} is not exported`);
  }

  /** Returns the name of a constant that code uses; `undefined` if nothing exports it. */
  nameOfConstant(symbol: CompilerSymbol): string | undefined {
    const name = this.bareName(symbol);
    return name !== undefined && isIdentifierName(name) ? name : undefined;
  }

  nameOfValue(symbol: CompilerSymbol): string | undefined {
    return this.bareName(symbol);
  }

  /** There is nothing below a name. @throws {Uncopiable} */
  aliasOf(symbol: CompilerSymbol): never {
    throw new Uncopiable(`${symbol.name} is not exported`);
  }

  isAliased(): boolean {
    return false;
  }
  constrain(): void {}
  need(): void {}
  takesInstances(): boolean {
    return false;
  }
  isUsed(): boolean {
    return true;
  }

  isOnlyReceiver(): boolean {
    return false;
  }
  isWanted(): boolean {
    return true;
  }
  wanted(_member: CompilerSymbol, signatures: readonly Signature[]): readonly Signature[] {
    return signatures;
  }
  called(): readonly Signature[] {
    return [];
  }
  mostArguments(): undefined {
    return undefined;
  }

  declared(signature: Signature): SignatureParts {
    return declaredSignature(signature, (node) => this.words(node));
  }

  /** Returns the source of a declared type, parameter or type parameter. @throws {Uncopiable} */
  words(node: Node): string {
    return declaredWords(
      this.#options.checker,
      node,
      () => {},
      (symbol) => {
        const name = this.bareName(symbol);
        if (name === undefined) throw new Uncopiable(`${symbol.name} is not exported`);
        return name;
      },
    );
  }

  /** Returns a name without type arguments; `undefined` for a type to write out. */
  bareName(symbol: CompilerSymbol): string | undefined {
    const path = symbol.declarations[0]?.path;
    if (path === undefined) return undefined;
    switch (this.#options.originOf(path)) {
      case "language":
        return isReachable(symbol) ? this.#imports.globalName(symbol) : undefined;
      case "ours":
        return this.#options.exportedAs(path, symbol) === undefined
          ? undefined
          : this.#imports.nameOfOurs(symbol, path);
      case "outside":
        return this.#outsideName(symbol);
    }
  }

  #outsideName(symbol: CompilerSymbol): string | undefined {
    // A module that is one class has no exports, but is imported by default.
    const path = this.#options.paths.to(symbol) ?? this.#options.pathOfTarget(symbol);
    const [firstName, ...inner] = path?.names ?? [];
    if (!path || firstName === undefined) return undefined;
    const key = `${path.specifier} ${firstName}`;
    let imported = this.#outside.get(key);
    if (!imported) {
      const exported = firstName === "default" ? symbol.name : firstName;
      const preferredName = NOT_TYPES.has(exported) ? asTypeName(exported) : exported;
      let local = preferredName;
      for (let count = 2; this.#isTaken(local); count++) local = `${preferredName}${count}`;
      imported = { name: firstName, local, from: { specifier: path.specifier } };
      this.#outside.set(key, imported);
    }
    return [imported.local, ...inner].join(".");
  }

  #isTaken(name: string): boolean {
    return this.#options.taken.has(name) || [...this.#outside.values()].some(({ local }) => local === name);
  }

  #arguments(symbol: CompilerSymbol, type: Type, direction: Direction): string {
    const { checker } = this.#options;
    const isAlias = (symbol.flags & SymbolFlags.TypeAlias) !== 0;
    const ownArguments = type.isTypeReference() ? checker.getTypeArguments(type) : [];
    const typeArguments = isAlias ? type.getAliasTypeArguments() : ownArguments;
    // The compiler may append the type of `this` to the declared parameters.
    const count = isAlias
      ? typeArguments.length
      : localParametersOf(checker.getDeclaredTypeOfSymbol(symbol)).length;
    const writtenArguments = typeArguments
      .slice(0, count)
      .map((argument) => this.#write(argument, direction));
    return writtenArguments.length > 0 ? `<${writtenArguments.join(", ")}>` : "";
  }
}

/** Whether a type of the language or of a built-in module is global or exported, rather than private to its module. */
function isReachable(symbol: CompilerSymbol): boolean {
  if (symbol.getParent() !== undefined) return true;
  const [declaration] = symbol.declarations;
  const path = declaration?.path ?? "";
  for (let node = declaration?.resolve(); node; node = node.parent) {
    const { name } = node as Node & { name?: Node };
    if (node.kind === SyntaxKind.ModuleDeclaration && name?.kind === SyntaxKind.StringLiteral) return false;
    if (node.kind === SyntaxKind.SourceFile) return !isModule(path, node);
  }
  return true;
}

/** Names of exports that a type cannot have. */
const NOT_TYPES: ReadonlySet<string> = new Set([
  ...RESERVED,
  ...["asserts", "bigint", "infer", "is", "keyof", "never", "out", "readonly", "unique"],
]);

/** Whether a file of the language or of a built-in module, which do not change, is a module. */
function isModule(path: string, file: Node): boolean {
  let isKnownModule = modules.get(path);
  if (isKnownModule === undefined) {
    isKnownModule = IS_MODULE.test(file.getText());
    modules.set(path, isKnownModule);
  }
  return isKnownModule;
}

const modules = new Map<string, boolean>();

const IS_MODULE = /^\s*(?:import|export)\b/m;
