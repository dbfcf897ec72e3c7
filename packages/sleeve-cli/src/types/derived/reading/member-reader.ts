import { isPublic, labelOf } from "../../../compiler/symbols.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Node,
  type Signature,
  SignatureKind,
  SymbolFlags,
  type Type,
  TypeFlags,
} from "../../../compiler/typescript.ts";
import { isInternal } from "../../../uses/origins.ts";
import { memberKey } from "../../writing/type-names.ts";
import { docOf, isReadonly } from "../../writing/type-text.ts";
import { definedPart, unionOf } from "../shapes/merge-shapes.ts";
import {
  type Field,
  identityOf,
  mapSignature,
  type ObjectShape,
  type Shape,
  type SignatureShape,
  someShape,
  UNKNOWN,
} from "../shapes/shape.ts";
import { mentionsIdentifier } from "./call-sites.ts";
import {
  type DeriveContext,
  ifDerivable,
  type Owner,
  type ReadsTypes,
  Underivable,
} from "./derive-context.ts";
import type { SignatureReader } from "./signature-reader.ts";

/** Maximum number of members that are tried to mention a type parameter. */
const MOST_WITNESSES = 8;

const ITERATORS: ReadonlySet<string> = new Set(["[Symbol.iterator]", "[Symbol.asyncIterator]"]);

/** Reads the members of objects that are used. */
export class MemberReader {
  readonly #checker: Checker;
  readonly #context: DeriveContext;
  readonly #types: ReadsTypes;
  readonly #signatures: SignatureReader;
  /** Names of type parameters; what mentions them is read as it is declared. */
  #declaredNames: readonly string[] = [];

  constructor(checker: Checker, context: DeriveContext, types: ReadsTypes, signatures: SignatureReader) {
    this.#checker = checker;
    this.#context = context;
    this.#types = types;
    this.#signatures = signatures;
  }

  /** Returns the used members of an object type. */
  members(type: Type, owner: Owner | undefined): ObjectShape {
    const checker = this.#checker;
    const properties = checker
      .getPropertiesOfType(type)
      .filter((property) => this.#isWanted(property, owner));
    const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
    const fields = new Map<string, Field>();
    properties.forEach((property, index) => {
      const propertyType = types[index];
      if (propertyType) fields.set(property.name, this.#fieldOrAlias(property, propertyType, owner, type));
    });
    for (const [name, field] of this.#iterators(type)) fields.set(name, field);
    const [index] = checker.getIndexInfosOfType(type);
    return {
      kind: "object",
      fields,
      index: index && {
        key: this.#types.read(index.keyType),
        value: this.#indexValue(index.valueType, fields),
        isReadonly: index.isReadonly,
      },
      calls: this.#calls(type, fields.size > 0),
      outsideName: this.#outsideNameOf(type),
    };
  }

  /** Returns a property or method; one that cannot follow from use has the type of the outside member. */
  #fieldOrAlias(property: CompilerSymbol, type: Type, owner: Owner | undefined, ownerType: Type): Field {
    try {
      return this.#context.attempt(() => this.field(property, type, owner)) as Field;
    } catch (error) {
      if (!(error instanceof Underivable)) throw error;
      const shape = this.#context.aliasOfMember(this.#checker, ownerType, property);
      if (!shape) throw error;
      const isOptional = (property.flags & SymbolFlags.Optional) !== 0;
      return { shape, isOptional, isReadonly: false, isMethod: false, key: memberKey(property) };
    }
  }

  /** Returns the iterators of a type whose values are iterated over. */
  #iterators(type: Type): readonly (readonly [string, Field])[] {
    const symbol = type.getAliasSymbol() ?? type.getSymbol();
    if (!symbol || !this.#context.isIterated(symbol)) return [];
    const iterators = this.#checker
      .getPropertiesOfType(type)
      .filter(({ name }) => ITERATORS.has(labelOf({ name } as CompilerSymbol)));
    return iterators.flatMap((property) => {
      const propertyType = this.#checker.getTypeOfSymbol(property);
      const [signature] = propertyType
        ? this.#checker.getSignaturesOfType(propertyType, SignatureKind.Call)
        : [];
      if (!signature) return [];
      const shape: Shape = { kind: "function", signatures: [this.#signatures.signature(signature)] };
      return [[labelOf(property), { shape, isOptional: false, isReadonly: false, isMethod: true }] as const];
    });
  }

  /** Returns the constructions that our code makes with values of a type; the declared ones if it has no members. */
  constructs(type: Type, hasFields: boolean): readonly SignatureShape[] {
    const declared = this.#checker.getSignaturesOfType(type, SignatureKind.Construct);
    const symbol = type.getSymbol();
    if (declared.length === 0) return [];
    const signatures = symbol ? this.#context.callsOf(symbol, "new") : [];
    if (signatures.length > 0 || hasFields) return signatures;
    return declared.map((signature) => this.#signatures.signature(signature));
  }

  /** The members of an object must fit its index signature. */
  #indexValue(type: Type, fields: ReadonlyMap<string, Field>): Shape {
    const value = this.#types.read(type);
    const parts = new Set((value.kind === "union" ? value.parts : [value]).map(identityOf));
    const fits = [...fields.values()].every(({ shape }) =>
      (shape.kind === "union" ? shape.parts : [shape]).every((part) => parts.has(identityOf(part))),
    );
    return fits ? value : UNKNOWN;
  }

  /** Of a named outside type, the calls that our code makes; none if only its members are used. */
  #calls(type: Type, hasFields: boolean): readonly SignatureShape[] {
    const declared = this.#checker.getSignaturesOfType(type, SignatureKind.Call);
    if (declared.length === 0) return [];
    const symbol = this.#outsideNameOf(type) === undefined ? undefined : type.getSymbol();
    const called = symbol && this.#context.callsOf(symbol, "call");
    if (called && called.length > 0) return called;
    return called && hasFields ? [] : declared.map((signature) => this.#signatures.signature(signature));
  }

  #outsideNameOf(type: Type): string | undefined {
    const symbol = type.getAliasSymbol() ?? type.getSymbol();
    const path = symbol?.declarations[0]?.path;
    const isOutside = path !== undefined && this.#context.originOf(path) === "outside";
    return isOutside && symbol && !isInternal(symbol) ? symbol.name : undefined;
  }

  #isWanted(property: CompilerSymbol, owner: Owner | undefined): boolean {
    if (!isPublic(property) || property.name.startsWith("__@")) return false;
    if ((property.flags & SymbolFlags.Prototype) !== 0) return false;
    const path = property.declarations[0]?.path;
    const isOurs = path === undefined || this.#context.originOf(path) === "ours";
    return isOurs || this.#context.isUsedOn(property, owner);
  }

  /**
   * Returns a member of a type that mentions a type parameter, whether or not it is used: by it the compiler infers
   * the parameter.
   */
  witnessOf(type: Type, parameter: string): Partial<ObjectShape> | undefined {
    const mentions = (shape: Shape) =>
      someShape(shape, (part) => part.kind === "parameter" && part.name === parameter);
    for (const [kind, name] of [
      [SignatureKind.Construct, "constructs"],
      [SignatureKind.Call, "calls"],
    ] as const) {
      const [signature] = this.#checker.getSignaturesOfType(type, kind);
      const shape = signature && ifDerivable(this.#context, () => this.#signatures.signature(signature));
      if (shape && mentions({ kind: "function", signatures: [shape] })) return { [name]: [shape] };
    }
    const properties = this.#checker
      .getPropertiesOfType(type)
      .filter((property) => isPublic(property) && !property.name.startsWith("__@"))
      .filter((property) => mentionsIdentifier(property.declarations[0]?.resolve(), parameter));
    for (const property of properties.slice(0, MOST_WITNESSES)) {
      const propertyType = this.#checker.getTypeOfSymbol(property);
      const field =
        propertyType && ifDerivable(this.#context, () => this.field(property, propertyType, undefined));
      if (field && mentions(field.shape)) return { fields: new Map([[property.name, field]]) };
    }
    return undefined;
  }

  /** Returns the used static members of a class. */
  statics(type: Type): ObjectShape {
    const { calls: _, ...shape } = this.members(type, this.#context.ownerOf(this.#checker, type));
    return { ...shape, index: undefined, outsideName: undefined };
  }

  /** Returns a property or method: from its calls if it is only called, else as it is declared. */
  field(property: CompilerSymbol, type: Type, owner: Owner | undefined): Field {
    return { ...this.#field(property, type, owner), isNamed: this.#context.used.isNamed(property) };
  }

  #field(property: CompilerSymbol, type: Type, owner: Owner | undefined): Field {
    const checker = this.#checker;
    const isOptional = (property.flags & SymbolFlags.Optional) !== 0;
    const bare = isOptional ? (checker.getNonNullableType(type) ?? type) : type;
    const isNullable = canBeNull(type);
    const declared = isNullable ? [] : checker.getSignaturesOfType(bare, SignatureKind.Call);
    const signatures = this.#calledSignatures(property, bare, owner);
    const common = {
      isOptional,
      doc: shortDoc(docOf(checker, property, signatures ? declared : [])),
      key: memberKey(property),
    };
    if (signatures && declared.length > 0)
      return { ...common, shape: { kind: "function", signatures }, isReadonly: false, isMethod: true };
    if (signatures && !isNullable) {
      const shape: Shape = { kind: "function", isNew: true, signatures };
      return { ...common, shape, isReadonly: isReadonly(property), isMethod: false };
    }
    const assigned = this.#context.assignedTo(property);
    const shape = unionOf([this.#types.read(isNullable ? type : bare), ...assigned]);
    const isMethod = shape.kind === "function" && shape.isNew !== true;
    return {
      ...common,
      shape: isOptional ? definedPart(shape) : shape,
      isReadonly: !isMethod && isReadonly(property),
      isMethod,
    };
  }

  /** Returns the signatures of a member that is only called; `undefined` for any other one. */
  #calledSignatures(
    property: CompilerSymbol,
    type: Type,
    owner: Owner | undefined,
  ): readonly SignatureShape[] | undefined {
    const ownerOfMembers = this.#context.ownerOf(this.#checker, type);
    const members = this.#checker.getPropertiesOfType(type);
    if (members.some((member) => this.#isWanted(member, ownerOfMembers))) return undefined;
    return this.#isDeclared(property)
      ? this.#declaredSignatures(property, type)
      : this.#context.signaturesOf(property, owner);
  }

  /** Returns the called signatures of a method as they are declared; `undefined` if it is none. */
  #declaredSignatures(property: CompilerSymbol, type: Type): readonly SignatureShape[] | undefined {
    const { used } = this.#context;
    const signatures = this.#checker.getSignaturesOfType(type, SignatureKind.Call);
    if (signatures.length === 0) return undefined;
    const most = used.mostArguments(property);
    const isWritten = used.callSites(property).some(({ call }) => {
      const { typeArguments = [] } = call as Node & { typeArguments?: readonly Node[] };
      return typeArguments.length > 0;
    });
    return used.called(property, signatures).map((signature) => {
      const shape = this.#signatures.signature(signature, most);
      return isWritten ? shape : this.#withDefaults(shape, signature);
    });
  }

  /** Replaces type parameters that have a default and that no caller writes. */
  #withDefaults(shape: SignatureShape, signature: Signature): SignatureShape {
    const defaults = new Map<string, Shape>();
    for (const parameter of signature.getTypeParameters()) {
      const symbol = parameter.getSymbol();
      const { defaultType } = (symbol?.declarations[0]?.resolve() ?? {}) as { defaultType?: Node };
      const standard = defaultType && this.#checker.getTypeFromTypeNode(defaultType as never);
      if (symbol && standard) defaults.set(symbol.name, this.#types.read(standard));
    }
    if (defaults.size === 0) return shape;
    const typeParameters = shape.typeParameters.filter(({ name }) => !defaults.has(name));
    return mapSignature({ ...shape, typeParameters }, (part) =>
      part.kind === "parameter" ? defaults.get(part.name) : undefined,
    );
  }

  /** Reads the members that mention some type parameters as they are declared, whatever is passed to them. */
  asDeclared<Result>(names: readonly string[], read: () => Result): Result {
    const outer = this.#declaredNames;
    this.#declaredNames = names;
    try {
      return read();
    } finally {
      this.#declaredNames = outer;
    }
  }

  #isDeclared(property: CompilerSymbol): boolean {
    if (this.#declaredNames.length === 0) return false;
    const node = property.declarations[0]?.resolve();
    return this.#declaredNames.some((name) => mentionsIdentifier(node, name));
  }
}

function canBeNull(type: Type): boolean {
  return type.isUnionType() && type.getTypes().some(({ flags }) => (flags & TypeFlags.Null) !== 0);
}

/** Maximum length of a comment, in characters. */
const LONGEST_DOC = 100;

/** Returns a comment that is one short sentence; longer ones describe the outside module. */
export function shortDoc(doc: string | undefined): string | undefined {
  const isShort = doc !== undefined && doc.length <= LONGEST_DOC && !doc.includes("`".repeat(3));
  return isShort ? doc : undefined;
}
