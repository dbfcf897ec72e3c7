import { type Checker, SignatureKind, SymbolFlags, type Type, TypeFlags } from "../compiler/typescript.ts";
import type { ValueSchema } from "../documents/surface-document.ts";

const OF_LANGUAGE =
  /^(Date|RegExp|Map|Set|URL|Error|TypeError|RangeError|Uint8Array|Buffer|ArrayBuffer|AbortSignal)$/;

/** How far the values of a type are described. */
export interface SchemaLimits {
  /** Maximum depth; every value is accepted below. */
  readonly depth: number;
  /** Maximum number of parts; every value is accepted beyond. */
  readonly parts: number;
  /** Whether a declaring file belongs to an outside module, so that objects of its types are not described. */
  readonly isOutside: (path: string) => boolean;
}

/** The types that contain the current one, and the parts written so far. */
interface Nesting {
  readonly open: ReadonlySet<number>;
  readonly written: { count: number };
}

export function valueSchemaOf(
  checker: Checker,
  type: Type,
  limits: SchemaLimits,
  within: Nesting = { open: new Set(), written: { count: 0 } },
): ValueSchema {
  if (++within.written.count > limits.parts) return {};
  const { flags } = type;
  const simple = SIMPLE.find(([flag]) => (flags & flag) !== 0);
  if (simple) return simple[1];
  const value = literalOf(type);
  if (value !== undefined) return { const: value };
  const primitive = type.isUnionType() ? undefined : PRIMITIVES.find(([flag]) => (flags & flag) !== 0);
  if (primitive) return primitive[1];
  if (type.isUnionType()) return unionOf(checker, type.getTypes(), limits, within);
  const underlying = underlyingType(checker, type);
  if (underlying) return valueSchemaOf(checker, underlying, limits, within);
  if ((flags & TypeFlags.TypeParameter) !== 0) return {};
  if (within.open.has(type.id) || within.open.size >= limits.depth) return {};
  return objectOf(checker, type, limits, { ...within, open: new Set([...within.open, type.id]) });
}

const SIMPLE: readonly (readonly [TypeFlags, ValueSchema])[] = [
  [TypeFlags.Any | TypeFlags.Unknown | TypeFlags.Void, {}],
  [TypeFlags.Undefined, { type: "undefined" }],
  [TypeFlags.Null, { type: "null" }],
  [TypeFlags.Boolean, { type: "boolean" }],
];

const PRIMITIVES: readonly (readonly [TypeFlags, ValueSchema])[] = [
  [TypeFlags.StringLike, { type: "string" }],
  [TypeFlags.NumberLike, { type: "number" }],
  [TypeFlags.BigIntLike, { type: "bigint" }],
  [TypeFlags.ESSymbolLike, { type: "symbol" }],
];

/** Returns the primitive of a branded type, or the constraint of a type parameter. */
function underlyingType(checker: Checker, type: Type): Type | undefined {
  // A branded type is an intersection of a primitive with a mark that no value has.
  if (type.isIntersectionType()) return type.getTypes().find((part) => (part.flags & TypeFlags.Object) === 0);
  if ((type.flags & TypeFlags.TypeParameter) === 0) return undefined;
  const constraint = checker.getBaseConstraintOfType(type);
  return constraint && constraint.id !== type.id ? constraint : undefined;
}

function literalOf(type: Type): string | number | boolean | undefined {
  if ((type.flags & (TypeFlags.StringLiteral | TypeFlags.NumberLiteral | TypeFlags.BooleanLiteral)) === 0)
    return undefined;
  const { value } = type as Type & { value?: string | number | boolean };
  return value;
}

function unionOf(
  checker: Checker,
  types: readonly Type[],
  limits: SchemaLimits,
  within: Nesting,
): ValueSchema {
  const schemas = types.map((type) => valueSchemaOf(checker, type, limits, within));
  const isBoolean = (valueSchema: ValueSchema) => typeof valueSchema.const === "boolean";
  const distinct =
    schemas.filter(isBoolean).length === 2
      ? [...schemas.filter((schema) => !isBoolean(schema)), { type: "boolean" }]
      : schemas;
  return distinct.length === 1 ? (distinct[0] as ValueSchema) : { anyOf: distinct };
}

function objectOf(checker: Checker, type: Type, limits: SchemaLimits, within: Nesting): ValueSchema {
  const described = languageObjectOf(checker, type, (item) =>
    item ? valueSchemaOf(checker, item, limits, within) : {},
  );
  if (described) return described;
  if (checker.getSignaturesOfType(type, SignatureKind.Call).length > 0) return { function: true };
  const named = type.getAliasSymbol() ?? type.getSymbol();
  if (named?.declarations.some(({ path }) => limits.isOutside(path))) return opaque(named.name);
  return recordOf(checker, type, limits, within);
}

/** Describes an object of a type of the language; `undefined` for other types. */
function languageObjectOf(
  checker: Checker,
  type: Type,
  of: (item: Type | undefined) => ValueSchema,
): ValueSchema | undefined {
  const name = type.getSymbol()?.name ?? "";
  const typeArguments = type.isTypeReference() ? checker.getTypeArguments(type) : [];
  if (checker.isTupleType(type) && type.isTypeReference())
    return { type: "array", prefixItems: typeArguments.map(of), items: false };
  const [element] = typeArguments;
  if (checker.isArrayType(type) || name === "ReadonlyArray") return { type: "array", items: of(element) };
  if (/^Promise(Like)?$/.test(name)) return { promise: of(element) };
  if (/^(Iterable|IterableIterator|Iterator|IteratorObject|Generator)$/.test(name))
    return { iterable: of(element) };
  if (/^Async(Iterable|IterableIterator|Iterator|Generator)$/.test(name))
    return { asyncIterable: of(element) };
  if (/^Readonly(Map|Set)$/.test(name)) return { instanceOf: name.slice("Readonly".length) };
  return OF_LANGUAGE.test(name) ? { instanceOf: name } : undefined;
}

function opaque(name: string): ValueSchema {
  return { opaque: name.startsWith("__") ? "object" : name };
}

/** Describes an object by its fields; one with methods only by its name. */
function recordOf(checker: Checker, type: Type, limits: SchemaLimits, within: Nesting): ValueSchema {
  const of = (item: Type | undefined): ValueSchema =>
    item ? valueSchemaOf(checker, item, limits, within) : {};
  const [, second] = type.isTypeReference() ? checker.getTypeArguments(type) : [];
  const [index] = checker.getIndexInfosOfType(type);
  const properties = checker.getPropertiesOfType(type);
  // Record types describe their fields only by the type of the values.
  if (index && properties.length === 0)
    return { type: "object", additionalProperties: of(index.valueType ?? second) };
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const fields = properties.map((property, at) => [property, types[at]] as const);
  const hasMethods = fields.some(
    ([, type]) => type && checker.getSignaturesOfType(type, SignatureKind.Call).length > 0,
  );
  const isClass = ((type.getSymbol()?.flags ?? 0) & SymbolFlags.Class) !== 0;
  if (hasMethods || isClass) return opaque(type.getSymbol()?.name ?? "");
  const isOptional = (flags: SymbolFlags) => (flags & SymbolFlags.Optional) !== 0;
  return {
    type: "object",
    properties: Object.fromEntries(fields.map(([property, type]) => [property.name, of(type)])),
    required: fields.filter(([{ flags }]) => !isOptional(flags)).map(([property]) => property.name),
  };
}
