import {
  type Checker,
  type CompilerSymbol,
  ElementFlags,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
  type TypeParameter,
  type TypeReference,
} from "../../compiler/typescript.ts";

import { isInternal } from "../../uses/origins.ts";
import { stringLiteral } from "../../written-text.ts";
import { type SignatureParts, signatureText } from "./signature-parts.ts";
import { SignatureWriter } from "./signature-writer.ts";
import { TypeMembers } from "./type-members.ts";
import { type Direction, type Owner, type TypeNames, Uncopiable, type WrittenMember } from "./type-names.ts";
import { asOperand, isOfDeclared, tupleElementsOf } from "./type-text.ts";

/** Maximum nesting of expanded object types. */
const DEEPEST = 8;

/** Maximum nesting of types, and number of types per export. */
const MOST_NESTED = 60;
const MOST_WRITTEN = 8000;

/** Writes types as source, by structure except for named types. */
export class TypeWriter {
  readonly #checker: Checker;
  readonly #names: TypeNames;
  readonly #signatures: SignatureWriter;
  readonly #members: TypeMembers;
  #depth = 0;
  /** The expanded types that contain the current one. */
  readonly #open = new Set<number>();
  #nesting = 0;
  #written = 0;
  /** The type parameters in scope, by symbol id. */
  #scope: ReadonlySet<number> = new Set();

  constructor(checker: Checker, names: TypeNames) {
    this.#checker = checker;
    this.#names = names;
    this.#signatures = new SignatureWriter(checker, names, this);
    this.#members = new TypeMembers(checker, names, this, this.#signatures);
  }

  /** @throws {Uncopiable} */
  write(type: Type, direction: Direction): string {
    if (++this.#written > MOST_WRITTEN) throw new Uncopiable("it is too large");
    if (this.#nesting >= MOST_NESTED) throw new Uncopiable("it is nested too deeply");
    this.#nesting++;
    try {
      const alias = type.getAliasSymbol();
      const named = alias && this.#names.nameOf(alias, type, direction);
      if (named !== undefined) return named;
      try {
        return this.structure(type, direction);
      } catch (error) {
        if (!alias || !(error instanceof Uncopiable)) throw error;
        return this.#names.aliasOf(alias, type, direction);
      }
    } finally {
      this.#nesting--;
    }
  }

  /** Resets the count of written types. */
  restart(): void {
    this.#written = 0;
  }

  /** Writes a type expanded, even if an alias names it. @throws {Uncopiable} */
  structure(type: Type, direction: Direction): string {
    if (type.isErrorType()) throw new Uncopiable("the compiler cannot resolve it");
    const text = this.#simple(type, direction) ?? this.#compound(type, direction);
    if (text !== undefined) return text;
    if (type.isConditionalType()) throw new Uncopiable("it is a conditional type");
    if ((type.flags & TypeFlags.Object) === 0) throw new Uncopiable("it is computed from other types");
    return this.#object(type, direction);
  }

  /** Writes a type that has no parts. */
  #simple(type: Type, direction: Direction): string | undefined {
    if ((type.flags & TypeFlags.EnumLike) !== 0) return this.#enumeration(type, direction);
    if (type.isStringLiteralType()) return stringLiteral(type.value);
    if (type.isNumberLiteralType()) return String(type.value);
    if (type.isBigIntLiteralType()) return `${String(type.value)}n`;
    if ((type.flags & TypeFlags.UniqueESSymbol) !== 0) throw new Uncopiable("it is a unique symbol");
    if (type.isTypeParameter()) return this.#parameterName(type);
    return type.isIntrinsicType() ? type.intrinsicName : undefined;
  }

  /** Writes a type that an operator makes from others. */
  #compound(type: Type, direction: Direction): string | undefined {
    if (type.isUnionType()) return this.#union(type.getTypes(), direction);
    if (type.isIntersectionType()) return this.#parts(type.getTypes(), direction).join(" & ");
    if (type.isIndexType()) return `keyof ${this.#operand(type.getTarget(), direction)}`;
    if (type.isIndexedAccessType())
      return this.#indexed(type.getObjectType(), type.getIndexType(), direction);
    if (type.isTemplateLiteralType()) return this.#template(type.texts, type.getTypes() ?? [], direction);
    return undefined;
  }

  #indexed(object: Type, index: Type, direction: Direction): string {
    if (!object.isTypeParameter()) throw new Uncopiable("it is an indexed access into another type");
    this.#names.need(object, index);
    const indexText = this.write(index, direction);
    return `${this.#operand(object, direction)}[${indexText}]`;
  }

  #parameterName(type: TypeParameter): string {
    const symbol = type.getSymbol();
    if (symbol === undefined || !this.#scope.has(symbol.id))
      throw new Uncopiable("it depends on an outer type parameter");
    return type.isThisType ? "this" : symbol.name;
  }

  /**
   * Writes something with additional type parameters in scope, or only these if it stands alone. A class or
   * interface among them allows its type of `this`.
   */
  inScope<Result>(parameters: readonly Type[], stands: "within" | "alone", write: () => Result): Result {
    const outer = this.#scope;
    const parameterIds = parameters.flatMap((parameter) => parameter.getSymbol()?.id ?? []);
    this.#scope = new Set(stands === "within" ? [...outer, ...parameterIds] : parameterIds);
    try {
      return write();
    } finally {
      this.#scope = outer;
    }
  }

  #enumeration(type: Type, direction: Direction): string {
    const symbol = type.getSymbol();
    const named = symbol && this.#names.nameOf(symbol, type, direction);
    if (named === undefined) throw new Uncopiable("it is an enumeration");
    return named;
  }

  #union(types: readonly Type[], direction: Direction): string {
    const isBoolean = (type: Type) => (type.flags & TypeFlags.BooleanLiteral) !== 0;
    const isWhole = types.filter(isBoolean).length === 2;
    const parts = this.#parts(isWhole ? types.filter((type) => !isBoolean(type)) : types, direction);
    const isLast = (text: string) => text === "null" || text === "undefined";
    const others = parts.filter((part) => !isLast(part));
    return [...others, ...(isWhole ? ["boolean"] : []), ...parts.filter(isLast)].join(" | ");
  }

  #parts(types: readonly Type[], direction: Direction): string[] {
    return types.map((type) => asOperand(this.write(type, direction)));
  }

  #operand(type: Type, direction: Direction): string {
    return asOperand(this.write(type, direction));
  }

  #template(texts: readonly string[], types: readonly Type[], direction: Direction): string {
    // What a package writes in a template must stay in it.
    const [head = "", ...tails] = texts.map((text) => text.replace(/[`\\]|\$\{/g, "\\$&"));
    const parts = types.map((type, index) => `\${${this.write(type, direction)}}${tails[index] ?? ""}`);
    return `\`${head}${parts.join("")}\``;
  }

  #object(type: Type, direction: Direction): string {
    const checker = this.#checker;
    if (type.isTypeReference() && checker.isTupleType(type)) return this.#tuple(type, direction);
    if (checker.isArrayType(type) && type.isTypeReference()) {
      const [element] = checker.getTypeArguments(type);
      const isReadonly = type.getSymbol()?.name === "ReadonlyArray";
      return `${isReadonly ? "readonly " : ""}${element ? this.#operand(element, direction) : "unknown"}[]`;
    }
    return this.#named(type, direction) ?? this.inline(type, direction);
  }

  /** Writes an object type by the name of its declaration, if it has one that can be used. */
  #named(type: Type, direction: Direction): string | undefined {
    const symbol = type.getSymbol();
    if (!symbol) return undefined;
    const isInstance = (type.flags & TypeFlags.Object) !== 0 && isOfDeclared(type);
    if (isInstance) return isInternal(symbol) ? undefined : this.#names.nameOf(symbol, type, direction);
    const value = (symbol.flags & SymbolFlags.Class) !== 0 ? this.#names.nameOfValue(symbol) : undefined;
    return value === undefined ? undefined : `typeof ${value}`;
  }

  #tuple(type: Type, direction: Direction): string {
    const { types, elementFlags, isReadonly } = tupleElementsOf(this.#checker, type as TypeReference);
    const elements = types.map((type, index) => {
      const flags = elementFlags[index] ?? ElementFlags.Required;
      if ((flags & ElementFlags.Rest) !== 0) return `...${this.#operand(type, direction)}[]`;
      if ((flags & ElementFlags.Variadic) !== 0) return `...${this.#operand(type, direction)}`;
      if ((flags & ElementFlags.Optional) === 0) return this.write(type, direction);
      return `${asOperand(this.withoutUndefined(type, direction))}?`;
    });
    return `${isReadonly ? "readonly " : ""}[${elements.join(", ")}]`;
  }

  /** Writes an object or function type in place. */
  inline(type: Type, direction: Direction, owner?: Owner): string {
    if (this.#depth >= DEEPEST) throw new Uncopiable("it is nested too deeply");
    if (this.#open.has(type.id)) throw new Uncopiable("it contains itself");
    this.#depth++;
    this.#open.add(type.id);
    try {
      const calls = this.#checker.getSignaturesOfType(type, SignatureKind.Call);
      const constructs = this.#checker.getSignaturesOfType(type, SignatureKind.Construct);
      const members = this.members(type, direction, owner);
      const [member] = members;
      const [call] = calls;
      if (members.length === 1 && member?.name === "()" && call && calls.length === 1)
        return this.signature(call, direction, " => ");
      const [construct] = constructs;
      if (members.length === 1 && member?.name === "new ()" && construct && constructs.length === 1)
        return `new ${this.signature(construct, direction, " => ")}`;
      if (members.length === 0) return isEmpty(this.#checker, type) ? "{}" : "object";
      return `{ ${members.map(({ text }) => text).join("; ")} }`;
    } finally {
      this.#depth--;
      this.#open.delete(type.id);
    }
  }

  /**
   * Writes the wanted members of an object type: call, construct and index signatures, and properties. `symbol`
   * is what callers use. Default: the type's own.
   */
  members(
    type: Type,
    direction: Direction,
    owner?: Owner,
    symbol = type.getSymbol(),
  ): readonly WrittenMember[] {
    return this.#members.all(type, direction, owner, symbol);
  }

  /** Writes some properties of an object. */
  only(
    properties: readonly CompilerSymbol[],
    direction: Direction,
    owner: Owner | undefined,
  ): readonly WrittenMember[] {
    return this.#members.properties(properties, direction, owner);
  }

  /**
   * Writes one property or method; each overload on a line of its own. A member that cannot be copied has the
   * type of the outside member, if its owner is known.
   */
  property(
    property: CompilerSymbol,
    name: string,
    type: Type,
    direction: Direction,
    owner: Owner | undefined,
  ): string {
    return this.#members.property(property, name, type, direction, owner);
  }

  /** Whether a signature accepts objects with methods that the outside module declares. */
  takesInstances(signature: Signature): boolean {
    return this.#names.takesInstances(signature);
  }

  /** Whether a type is an object or function type without a name. */
  isInline(type: Type): boolean {
    if ((type.flags & TypeFlags.Object) === 0 || type.getAliasSymbol()) return false;
    if (this.#checker.isArrayType(type) || this.#checker.isTupleType(type)) return false;
    const symbol = type.getSymbol();
    return !(symbol && isOfDeclared(type) && !isInternal(symbol));
  }

  /**
   * Writes signatures under a name, one per line: with their type parameters or, if impossible, as called.
   */
  overloads(
    symbol: CompilerSymbol,
    signatures: readonly Signature[],
    label: string,
    direction: Direction,
  ): string {
    return this.#signatures.overloads(symbol, signatures, label, direction);
  }

  /** `<T>(a: A, b?: B) => R`, or with `: ` before the result. @throws {Uncopiable} */
  signature(signature: Signature, direction: Direction, arrow: " => " | ": ", most?: number): string {
    return signatureText(this.signatureParts(signature, direction, most), arrow);
  }

  /** Writes the parts of a signature. @throws {Uncopiable} */
  signatureParts(signature: Signature, direction: Direction, most?: number): SignatureParts {
    return this.#signatures.parts(signature, direction, most);
  }

  /** `<T extends A = B>`, or empty. */
  typeParameters(parameters: readonly TypeParameter[], direction: Direction): string {
    return this.#signatures.typeParameters(parameters, direction);
  }

  /** Writes the type of an optional parameter or member. */
  withoutUndefined(type: Type, direction: Direction): string {
    if (!type.isUnionType()) return this.write(type, direction);
    const defined = type.getTypes().filter(({ flags }) => (flags & TypeFlags.Undefined) === 0);
    const [onlyType] = defined;
    if (defined.length === type.getTypes().length || !onlyType) return this.write(type, direction);
    return defined.length === 1 ? this.write(onlyType, direction) : this.#union(defined, direction);
  }
}

/** Whether a type has no members at all, as the constraint in `<T extends {}>`. */
function isEmpty(checker: Checker, type: Type): boolean {
  return (
    (type.flags & TypeFlags.Object) !== 0 &&
    checker.getPropertiesOfType(type).length === 0 &&
    [SignatureKind.Call, SignatureKind.Construct].every(
      (kind) => checker.getSignaturesOfType(type, kind).length === 0,
    )
  );
}
