import { isOptionalParameter } from "../../compiler/parameters.ts";
import { isPublic } from "../../compiler/symbols.ts";
import { modifiersOf } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  ElementFlags,
  ModifierFlags,
  type Node,
  ObjectFlags,
  type Signature,
  SignatureKind,
  SymbolFlags,
  SyntaxKind,
  type TupleType,
  type Type,
  TypeFlags,
  type TypeParameter,
  TypePredicateKind,
  type TypeReference,
} from "../../compiler/typescript.ts";

import { isInternal } from "../../uses/origins.ts";
import { stringLiteral } from "../../written-text.ts";
import { type ParameterParts, type SignatureParts, signatureText } from "./signature-parts.ts";
import {
  type Direction,
  memberKey,
  type Owner,
  type TypeNames,
  Uncopiable,
  type WrittenMember,
} from "./type-names.ts";
import { asOperand, docOf, isOfDeclared, isReadonly, isSame, keyText, sentParameters } from "./type-text.ts";

/** Maximum nesting of expanded object types. */
const DEEPEST = 8;

/** Maximum nesting of types, and number of types per export. */
const MOST_NESTED = 60;
const MOST_WRITTEN = 8000;

/** Writes types as source, by structure except for named types. */
export class TypeWriter {
  readonly #checker: Checker;
  readonly #names: TypeNames;
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
    const { types, elementFlags, isReadonly } = this.#elementsOf(type as TypeReference);
    const elements = types.map((type, index) => {
      const flags = elementFlags[index] ?? ElementFlags.Required;
      if ((flags & ElementFlags.Rest) !== 0) return `...${this.#operand(type, direction)}[]`;
      if ((flags & ElementFlags.Variadic) !== 0) return `...${this.#operand(type, direction)}`;
      if ((flags & ElementFlags.Optional) === 0) return this.write(type, direction);
      return `${asOperand(this.#withoutUndefined(type, direction))}?`;
    });
    return `${isReadonly ? "readonly " : ""}[${elements.join(", ")}]`;
  }

  #elementsOf(type: TypeReference): {
    readonly types: readonly Type[];
    readonly elementFlags: readonly ElementFlags[];
    readonly isReadonly: boolean;
  } {
    const { elementFlags, readonly: isReadonly = false } = type.getTarget() as Partial<TupleType>;
    const typeArguments = this.#checker.getTypeArguments(type);
    const types = elementFlags ? typeArguments.slice(0, elementFlags.length) : typeArguments;
    return { types, elementFlags: elementFlags ?? [], isReadonly };
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
    const checker = this.#checker;
    const signatureMember = (name: string, text: string): WrittenMember => ({
      name,
      text,
      doc: undefined,
      isUsed: true,
    });
    const properties = checker.getPropertiesOfType(type);
    const wantedProperties = properties.filter(
      (property) => isPublic(property) && this.#names.isWanted(property, type, direction),
    );
    const select = (signatures: readonly Signature[]) => {
      if (!symbol) return signatures;
      // Of a function that is only used for its members, nothing is called.
      return wantedProperties.length > 0 && this.#names.isOnlyReceiver(symbol)
        ? []
        : this.#names.wanted(symbol, signatures);
    };
    const calls = select(checker.getSignaturesOfType(type, SignatureKind.Call));
    const constructs = select(checker.getSignaturesOfType(type, SignatureKind.Construct)).filter(
      isPublicConstructor,
    );
    const indexes = checker.getIndexInfosOfType(type);
    const isMapped = ((type as { objectFlags?: number }).objectFlags ?? 0) & ObjectFlags.Mapped;
    if (isMapped && properties.length === 0 && indexes.length === 0)
      throw new Uncopiable("it is a mapped type");
    return [
      ...calls.flatMap((call) =>
        this.#eitherWay(symbol, call, "", (signature) => this.signature(signature, direction, ": ")).map(
          (text) => ({ ...signatureMember("()", text), takesInstances: this.#names.takesInstances(call) }),
        ),
      ),
      ...constructs.map((construct) =>
        signatureMember("new ()", `new ${this.signature(construct, direction, ": ")}`),
      ),
      ...indexes.map(({ keyType, valueType, isReadonly }) =>
        signatureMember(
          "[]",
          `${isReadonly ? "readonly " : ""}[key: ${this.write(keyType, direction)}]: ${this.write(valueType, direction)}`,
        ),
      ),
      ...this.only(wantedProperties, direction, owner),
    ];
  }

  /** Writes some properties of an object. */
  only(
    properties: readonly CompilerSymbol[],
    direction: Direction,
    owner: Owner | undefined,
  ): readonly WrittenMember[] {
    const types = properties.length > 0 ? this.#checker.getTypeOfSymbol(properties) : [];
    return properties.flatMap((property, index): WrittenMember[] => {
      const type = types[index];
      if (!type || (property.flags & SymbolFlags.Prototype) !== 0) return [];
      const text = this.property(property, keyText(property), type, direction, owner);
      const key = memberKey(property);
      const isUsed = this.#names.isUsed(property);
      return [{ name: property.name, key, text, doc: this.#docOf(property, type), isUsed }];
    });
  }

  #docOf(property: CompilerSymbol, type: Type): string | undefined {
    const signatures = this.#checker.getSignaturesOfType(type, SignatureKind.Call);
    return docOf(this.#checker, property, this.#names.wanted(property, signatures));
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
    if (!owner || name.startsWith("[")) return this.#property(property, name, type, direction, undefined);
    const label = `${isReadonly(property) ? "readonly " : ""}${name}`;
    const isOptional = (property.flags & SymbolFlags.Optional) !== 0;
    const outside: Owner = () => `${owner()}[${stringLiteral(property.name)}]`;
    const aliased = () => `${label}${isOptional ? "?" : ""}: ${outside()}`;
    if (this.#names.isAliased(property)) return aliased();
    try {
      return this.#names.attempt(() => this.#property(property, name, type, direction, outside));
    } catch (error) {
      if (!(error instanceof Uncopiable)) throw error;
      return this.#names.attempt(aliased);
    }
  }

  #property(
    property: CompilerSymbol,
    name: string,
    type: Type,
    direction: Direction,
    outside: Owner | undefined,
  ): string {
    const checker = this.#checker;
    const isOptional = (property.flags & SymbolFlags.Optional) !== 0;
    const bare = isOptional ? (checker.getNonNullableType(type) ?? type) : type;
    const calls = checker.getSignaturesOfType(bare, SignatureKind.Call);
    const signatures = this.#names.wanted(property, calls);
    const isFunction =
      isMethod(property, calls) &&
      checker.getSignaturesOfType(bare, SignatureKind.Construct).length === 0 &&
      checker.getPropertiesOfType(bare).every((symbol) => !this.#names.isWanted(symbol, bare, direction));
    const label = `${name}${isOptional ? "?" : ""}`;
    if (isFunction && signatures.length > 0) return this.overloads(property, signatures, label, direction);
    const write = () => (isOptional ? this.#withoutUndefined(type, direction) : this.write(type, direction));
    const typeText = this.isInline(type)
      ? this.inline(type, direction, isOptional ? undefined : outside)
      : write();
    return `${isReadonly(property) ? "readonly " : ""}${label}: ${typeText}`;
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
    const most = this.#names.mostArguments(symbol);
    const text = (signature: Signature) => `${label}${this.signature(signature, direction, ": ", most)}`;
    return signatures.flatMap((signature) => this.#eitherWay(symbol, signature, label, text)).join(";\n");
  }

  /** Writes a signature with its type parameters, else as called, else as declared. */
  #eitherWay(
    symbol: CompilerSymbol | undefined,
    signature: Signature,
    label: string,
    text: (signature: Signature) => string,
  ): readonly string[] {
    const calls = () =>
      (symbol ? this.#names.called(symbol) : []).filter(
        ({ declaration }) => declaration === undefined || isSame(declaration, signature.declaration),
      );
    const attempts = [
      () => [text(signature)],
      () => [...new Set(calls().map(text))],
      () => [`${label}${signatureText(this.#names.declared(signature), ": ")}`],
    ];
    let reason: unknown;
    for (const attempt of attempts) {
      try {
        const texts = this.#names.attempt(attempt);
        if (texts.length > 0) return texts;
      } catch (error) {
        if (!(error instanceof Uncopiable)) throw error;
        reason ??= error;
      }
    }
    throw reason;
  }

  /** `<T>(a: A, b?: B) => R`, or with `: ` before the result. @throws {Uncopiable} */
  signature(signature: Signature, direction: Direction, arrow: " => " | ": ", most?: number): string {
    return signatureText(this.signatureParts(signature, direction, most), arrow);
  }

  /** Writes the parts of a signature. @throws {Uncopiable} */
  signatureParts(signature: Signature, direction: Direction, most?: number): SignatureParts {
    return this.inScope(signature.getTypeParameters(), "within", () => ({
      parameters: this.#parameters(signature, direction === "out" ? "in" : "out", most),
      result: this.#result(signature, direction),
      typeParameters: this.typeParameters(signature.getTypeParameters(), direction),
    }));
  }

  #parameters(
    signature: Signature,
    direction: Direction,
    most: number | undefined,
  ): readonly ParameterParts[] {
    const checker = this.#checker;
    const parameters = sentParameters(signature, most).flatMap((symbol, index): readonly ParameterParts[] => {
      const isRest = signature.hasRestParameter && index === signature.getParameters().length - 1;
      const type = isRest ? checker.getTypeOfSymbol(symbol) : checker.getParameterType(signature, index);
      const name = /^__\d+$/.test(symbol.name) ? `argument${index + 1}` : symbol.name;
      if (!type) throw new Uncopiable("a parameter has no type");
      if (isRest) return this.#rest(name, type, direction);
      const isOptional = isOptionalParameter(symbol);
      const text = isOptional ? this.#withoutUndefined(type, direction) : this.write(type, direction);
      return [{ name, isRest: false, isOptional, type: text }];
    });
    const receiver = signature.getThisParameter();
    const receiverType = receiver && checker.getTypeOfSymbol(receiver);
    if (!receiverType) return parameters;
    const type = this.write(receiverType, direction);
    return [{ name: "this", isRest: false, isOptional: false, type }, ...parameters];
  }

  /** Writes a rest parameter; for a tuple, one parameter per element. */
  #rest(name: string, type: Type, direction: Direction): readonly ParameterParts[] {
    const restParameter = (text: string): readonly ParameterParts[] => [
      { name, isRest: true, isOptional: false, type: text },
    ];
    if (!type.isTypeReference() || !this.#checker.isTupleType(type)) {
      // A rest parameter must be an array itself, not an interface that extends one.
      const isArray = this.#checker.isArrayType(type) || !type.isClassOrInterface();
      const element = isArray ? undefined : this.#elementOf(type);
      return restParameter(element ? `${this.#operand(element, direction)}[]` : this.write(type, direction));
    }
    const { types, elementFlags } = this.#elementsOf(type);
    if (elementFlags.some((flags) => flags !== ElementFlags.Required))
      return restParameter(this.write(type, direction));
    const single = name.replace(/s$/, "");
    return types.map((element, index) => ({
      name: `${single}${types.length > 1 ? index + 1 : ""}`,
      isRest: false,
      isOptional: false,
      type: this.write(element, direction),
    }));
  }

  #elementOf(type: Type): Type | undefined {
    const indexes = this.#checker.getIndexInfosOfType(type);
    return indexes.find(({ keyType }) => (keyType.flags & TypeFlags.Number) !== 0)?.valueType;
  }

  #result(signature: Signature, direction: Direction): SignatureParts["result"] {
    const predicate = this.#checker.getTypePredicateOfSignature(signature);
    if (predicate) {
      const isAssertion =
        predicate.kind === TypePredicateKind.AssertsIdentifier ||
        predicate.kind === TypePredicateKind.AssertsThis;
      const { parameterName: parameter = "this", type } = predicate as {
        parameterName?: string;
        type?: Type;
      };
      return { isAssertion, parameter, type: type && this.write(type, direction) };
    }
    const type = this.#checker.getReturnTypeOfSignature(signature);
    if (!type) throw new Uncopiable("its result has no type");
    return this.write(type, direction);
  }

  /** `<T extends A = B>`, or empty. */
  typeParameters(parameters: readonly TypeParameter[], direction: Direction): string {
    if (parameters.length === 0) return "";
    const texts = parameters.map((parameter) => {
      const constraint = this.#checker.getConstraintOfTypeParameter(parameter);
      if (constraint) this.#names.constrain(constraint);
      const symbol = parameter.getSymbol();
      const declaration = symbol?.declarations[0]?.resolve();
      const { defaultType, default: standard } = (declaration ?? {}) as {
        defaultType?: Node;
        default?: Node;
      };
      const node = defaultType ?? standard;
      const fallback = node && this.#checker.getTypeFromTypeNode(node as never);
      const isConst = declaration?.getText().startsWith("const ") === true;
      return [
        `${isConst ? "const " : ""}${symbol?.name ?? "T"}`,
        ...(constraint ? [`extends ${this.write(constraint, direction)}`] : []),
        ...(fallback ? [`= ${this.write(fallback, direction)}`] : []),
      ].join(" ");
    });
    return `<${texts.join(", ")}>`;
  }

  #withoutUndefined(type: Type, direction: Direction): string {
    if (!type.isUnionType()) return this.write(type, direction);
    const defined = type.getTypes().filter(({ flags }) => (flags & TypeFlags.Undefined) === 0);
    const [onlyType] = defined;
    if (defined.length === type.getTypes().length || !onlyType) return this.write(type, direction);
    return defined.length === 1 ? this.write(onlyType, direction) : this.#union(defined, direction);
  }
}

/**
 * Whether a member is a method, or a constant or property that holds a declared function. Their parameters are
 * compared in both directions, unlike those of a function type.
 */
function isMethod({ flags }: CompilerSymbol, signatures: readonly Signature[]): boolean {
  if ((flags & (SymbolFlags.Method | SymbolFlags.Function | SymbolFlags.Variable | SymbolFlags.Alias)) !== 0)
    return true;
  return (
    (flags & SymbolFlags.Optional) === 0 &&
    signatures.length > 0 &&
    signatures.every(({ declaration }) => declaration !== undefined && FUNCTIONS.has(declaration.kind))
  );
}

const FUNCTIONS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.FunctionDeclaration,
  SyntaxKind.MethodDeclaration,
  SyntaxKind.MethodSignature,
]);

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

function isPublicConstructor({ declaration }: Signature): boolean {
  const node = declaration?.resolve();
  return !node || (modifiersOf(node) & (ModifierFlags.Private | ModifierFlags.Protected)) === 0;
}
