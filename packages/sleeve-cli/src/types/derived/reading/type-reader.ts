import {
  type Checker,
  type CompilerSymbol,
  ElementFlags,
  type Node,
  SignatureKind,
  type Type,
  TypeFlags,
  type TypeParameter,
  type TypeReference,
} from "../../../compiler/typescript.ts";
import { isInternal } from "../../../uses/origins.ts";
import { stringLiteral } from "../../../written-text.ts";
import type { TypeOrigin } from "../../type-imports.ts";
import { Uncopiable } from "../../writing/type-names.ts";
import { isOfDeclared, tupleElementsOf } from "../../writing/type-text.ts";
import { definedPart, unionOf } from "../shapes/merge-shapes.ts";
import { identityOf, type Shape, someShape, type TupleElement, text, UNKNOWN } from "../shapes/shape.ts";
import {
  type DeriveContext,
  declarationKeyOf,
  ifDerivable,
  type ReadsTypes,
  Underivable,
} from "./derive-context.ts";
import { MemberReader } from "./member-reader.ts";
import { SignatureReader } from "./signature-reader.ts";

/** Maximum nesting of types that have no name. */
const DEEPEST = 8;

/** Maximum number of parts of a union. */
const MOST_PARTS = 24;

/** Maximum number of parts of an outside union that is not named. */
const MOST_INLINE = 3;

/** Reads declared types as shapes. Of outside objects, the shapes have the members that are used. */
export class TypeReader implements ReadsTypes {
  readonly #checker: Checker;
  readonly #context: DeriveContext;
  readonly signatures: SignatureReader;
  readonly members: MemberReader;
  /** Types without a name that contain the current one. */
  readonly #open = new Set<number>();
  #scope: ReadonlySet<string> = new Set();
  #self: Shape | undefined;
  #untyped: "unknown" | "any";

  constructor(checker: Checker, context: DeriveContext) {
    this.#checker = checker;
    this.#context = context;
    this.#untyped = context.untyped;
    this.signatures = new SignatureReader(checker, context, this);
    this.members = new MemberReader(checker, context, this, this.signatures);
  }

  /** Returns the shape of a type. @throws {Underivable} */
  read(type: Type): Shape {
    if (type.isErrorType()) throw new Underivable("the compiler cannot resolve it");
    const alias = type.getAliasSymbol();
    const named = alias && this.#aliased(alias, type);
    return named ?? this.#structure(type);
  }

  /** Reads with type parameters in scope and, within a generic type of the target, with a type for `this`. */
  within<Result>(parameters: readonly Type[], self: Shape | undefined, read: () => Result): Result {
    const [outerScope, outerSelf] = [this.#scope, this.#self];
    const keys = parameters.flatMap((parameter) => declarationKeyOf(parameter.getSymbol()) ?? []);
    this.#scope = new Set([...outerScope, ...keys]);
    this.#self = self ?? outerSelf;
    try {
      return read();
    } finally {
      this.#scope = outerScope;
      this.#self = outerSelf;
    }
  }

  /** In a constraint, `any` accepts what `unknown` does not. */
  asConstraint(read: () => Shape): Shape {
    const outer = this.#untyped;
    this.#untyped = "any";
    try {
      return read();
    } finally {
      this.#untyped = outer;
    }
  }

  #aliased(alias: CompilerSymbol, type: Type): Shape | undefined {
    const path = alias.declarations[0]?.path;
    if (path === undefined) return undefined;
    const origin = this.#context.originOf(path);
    if (origin === "outside") return this.#outsideAlias(alias, type);
    const args = type.getAliasTypeArguments().map((argument) => this.read(argument));
    const isOurs = args.every((argument) => !someShape(argument, ({ kind }) => kind === "reference"));
    // A utility type over an outside type is expanded, so that only the used members remain.
    if (!isOurs) return undefined;
    const name = this.#nameOf(alias, path, origin);
    return name === undefined ? undefined : { kind: "generic", name, args };
  }

  #outsideAlias(alias: CompilerSymbol, type: Type): Shape | undefined {
    // An alias that is another name of a type is that type.
    if (isOfDeclared(type) && type.getAliasTypeArguments().length === 0 && !this.#isContainer(type))
      return undefined;
    const isName = type.isUnionType()
      ? this.#isNamedUnion(alias, type.getTypes())
      : this.#isNamedObject(alias, type);
    return isName ? this.#context.reference(this.#checker, alias, type) : undefined;
  }

  /** Whether a union is written by its name: a large one, or one that callers name. */
  #isNamedUnion(alias: CompilerSymbol, parts: readonly Type[]): boolean {
    const isLarge = parts.length > MOST_INLINE || this.#context.isNamed(alias);
    return isLarge && parts.every((part) => (part.flags & TypeFlags.BooleanLiteral) === 0);
  }

  /** Whether an object is written by its name; a function only if callers name it. */
  #isNamedObject(alias: CompilerSymbol, type: Type): boolean {
    if ((type.flags & (TypeFlags.Object | TypeFlags.Intersection)) === 0) return false;
    if (type.isIntersectionType() && this.#markedOf(type) !== undefined) return false;
    if (this.#isContainer(type) || this.#isPlainIndex(type)) return false;
    const isFunction = this.#checker.getSignaturesOfType(type, SignatureKind.Call).length > 0;
    return !isFunction || this.#context.isNamed(alias);
  }

  #isContainer(type: Type): boolean {
    return this.#checker.isArrayType(type) || this.#checker.isTupleType(type);
  }

  /** Whether an object has an index signature and no members. */
  #isPlainIndex(type: Type): boolean {
    return (
      this.#checker.getPropertiesOfType(type).length === 0 &&
      this.#checker.getIndexInfosOfType(type).length > 0
    );
  }

  #nameOf(symbol: CompilerSymbol, path: string, origin: TypeOrigin): string | undefined {
    try {
      return origin === "language"
        ? this.#context.imports.globalName(symbol)
        : this.#context.imports.nameOfOurs(symbol, path);
    } catch (error) {
      if (error instanceof Uncopiable) return undefined;
      throw error;
    }
  }

  /** Returns the part of a type that callers name; `undefined` if there is none. */
  namedPart(type: Type): Shape | undefined {
    const parts = type.isUnionType() ? type.getTypes() : [type];
    for (const part of parts) {
      const symbol = part.getAliasSymbol() ?? part.getSymbol();
      const isNamed = symbol !== undefined && this.#context.isNamed(symbol);
      if (isNamed && (part.flags & TypeFlags.Object) !== 0)
        return ifDerivable(this.#context, () => this.read(part));
    }
    return undefined;
  }

  /** Reads a type by its structure, even if an alias names it. */
  structure(type: Type): Shape {
    return this.#structure(type);
  }

  #structure(type: Type): Shape {
    if ((type.flags & TypeFlags.Any) !== 0) return text(this.#untyped);
    if (type.isTypeParameter()) return this.#parameter(type);
    if (type.isUnionType()) return this.#union(type);
    if (type.isIntersectionType()) return this.#intersection(type.getTypes(), type);
    const simple = this.#simple(type);
    if (simple) return simple;
    if ((type.flags & TypeFlags.Object) === 0) throw new Underivable("it is computed from other types");
    return this.#object(type);
  }

  #simple(type: Type): Shape | undefined {
    if ((type.flags & TypeFlags.EnumLike) !== 0) return this.#enumeration(type);
    if (type.isStringLiteralType()) return text(stringLiteral(type.value));
    if (type.isNumberLiteralType()) return text(String(type.value));
    if (type.isBooleanLiteralType()) return text(String(type.value));
    if (type.isBigIntLiteralType()) return text(`${String(type.value)}n`);
    if ((type.flags & TypeFlags.UniqueESSymbol) !== 0) return text("symbol");
    if (type.isTemplateLiteralType()) return text("string");
    return type.isIntrinsicType() ? text(type.intrinsicName) : undefined;
  }

  #enumeration(type: Type): Shape {
    const symbol = type.getSymbol();
    const path = symbol?.declarations[0]?.path;
    if (!symbol || path === undefined) throw new Underivable("it is an enumeration");
    const origin = this.#context.originOf(path);
    const name = origin === "outside" ? undefined : this.#nameOf(symbol, path, origin);
    if (name === undefined) throw new Underivable("it is an enumeration");
    return text(name);
  }

  #parameter(type: TypeParameter): Shape {
    const symbol = type.getSymbol();
    const key = declarationKeyOf(symbol);
    if (type.isThisType) {
      if (!this.#self) throw new Underivable("it is the type of `this`");
      return this.#self;
    }
    if (!symbol || key === undefined) throw new Underivable("it is a type parameter without a name");
    return { kind: "parameter", name: symbol.name, isForeign: !this.#scope.has(key) };
  }

  #union(type: Type): Shape {
    const parts = type.isUnionType() ? type.getTypes() : [];
    if (parts.length > MOST_PARTS) {
      const widened = this.#checker.getBaseTypeOfLiteralType(type);
      if (!widened || widened.id === type.id) throw new Underivable("it is a union of many types");
      return this.read(widened);
    }
    return unionOf(parts.map((part) => this.read(part)));
  }

  /** An intersection is one object with the members of its parts. */
  #intersection(parts: readonly Type[], type: Type): Shape {
    if (parts.some((part) => (part.flags & TypeFlags.Object) === 0)) {
      const primitive = parts.find((part) => part.isIntrinsicType());
      // A branded primitive is the primitive.
      if (primitive) return this.read(primitive);
      throw new Underivable("it is an intersection with a type parameter");
    }
    return this.#markedOf(type) ?? this.#anonymous(type);
  }

  /** Returns the one part of an intersection that is more than a mark on it, or that is repeated. */
  #markedOf(type: Type): Shape | undefined {
    if (!type.isIntersectionType()) return undefined;
    const shapes = new Map(
      type.getTypes().flatMap((part) => {
        const shape = this.#partOf(part);
        return shape ? [[identityOf(shape), shape] as const] : [];
      }),
    );
    const [onlyShape] = shapes.values();
    return shapes.size === 1 && onlyShape?.kind !== "object" ? onlyShape : undefined;
  }

  /** Returns a part of an intersection; `undefined` if the part has no used members. */
  #partOf(part: Type): Shape | undefined {
    return ifDerivable(this.#context, () => {
      const shape = this.read(part);
      const isEmpty = shape.kind === "object" && shape.fields.size === 0 && !shape.index;
      return isEmpty && (shape.calls?.length ?? 0) === 0 ? undefined : shape;
    });
  }

  #object(type: Type): Shape {
    const checker = this.#checker;
    if (type.isTypeReference() && checker.isTupleType(type)) return this.#tuple(type);
    if (checker.isArrayType(type) && type.isTypeReference()) {
      const [element] = checker.getTypeArguments(type);
      const isReadonlyArray = type.getSymbol()?.name === "ReadonlyArray";
      return { kind: "array", element: element ? this.read(element) : UNKNOWN, isReadonly: isReadonlyArray };
    }
    return this.#named(type) ?? this.#anonymous(type);
  }

  #named(type: Type): Shape | undefined {
    const symbol = type.getSymbol();
    const path = symbol?.declarations[0]?.path;
    if (!symbol || path === undefined || !isOfDeclared(type) || isInternal(symbol)) return undefined;
    const origin = this.#context.originOf(path);
    if (origin === "outside") return this.#context.reference(this.#checker, symbol, type);
    const name = this.#nameOf(symbol, path, origin);
    if (name === undefined) return undefined;
    const args = this.#argumentsOf(type, symbol).map((argument) => this.read(argument));
    return args.length === 0 ? text(name) : { kind: "generic", name, args };
  }

  /** Returns the type arguments of a named type, without trailing ones that equal their defaults. */
  #argumentsOf(type: Type, symbol: CompilerSymbol): readonly Type[] {
    if (!type.isTypeReference()) return [];
    const declared = this.#checker.getDeclaredTypeOfSymbol(symbol);
    const local = declared.isClassOrInterface() ? declared.getLocalTypeParameters() : [];
    const args = this.#checker.getTypeArguments(type).slice(0, local.length);
    let count = args.length;
    for (; count > 0; count--) {
      const declaration = local[count - 1]?.getSymbol()?.declarations[0]?.resolve();
      const { defaultType } = (declaration ?? {}) as { defaultType?: Node };
      const standard = defaultType && this.#checker.getTypeFromTypeNode(defaultType as never);
      if (!standard || standard.id !== args[count - 1]?.id) break;
    }
    return args.slice(0, count);
  }

  #tuple(type: TypeReference): Shape {
    const { types, elementFlags, isReadonly: isReadonlyTuple } = tupleElementsOf(this.#checker, type);
    const elements = types.map((element, index): TupleElement => {
      const flags = elementFlags[index] ?? ElementFlags.Required;
      const shape = this.read(element);
      if ((flags & (ElementFlags.Rest | ElementFlags.Variadic)) !== 0) return { shape, form: "rest" };
      const isOptional = (flags & ElementFlags.Optional) !== 0;
      return { shape: isOptional ? definedPart(shape) : shape, form: isOptional ? "optional" : "required" };
    });
    return { kind: "tuple", elements, isReadonly: isReadonlyTuple };
  }

  #anonymous(type: Type): Shape {
    if (type.isConditionalType()) throw new Underivable("it is a conditional type");
    if (this.#open.has(type.id)) return this.#context.recursive(type);
    if (this.#open.size >= DEEPEST) throw new Underivable("it is nested too deeply");
    this.#open.add(type.id);
    try {
      return this.#context.defined(type, this.#bare(type));
    } finally {
      this.#open.delete(type.id);
    }
  }

  /** Reads an object type without a name; a function if it has no members. */
  #bare(type: Type): Shape {
    const shape = this.members.members(type, this.#context.ownerOf(this.#checker, type));
    const isBare = shape.fields.size === 0 && !shape.index;
    if (isBare && (shape.calls?.length ?? 0) > 0) return { kind: "function", signatures: shape.calls ?? [] };
    const constructs = this.members.constructs(type, !isBare);
    if (constructs.length === 0) return shape;
    return isBare ? { kind: "function", isNew: true, signatures: constructs } : { ...shape, constructs };
  }
}
