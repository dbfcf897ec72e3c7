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
  if ((flags & (TypeFlags.Any | TypeFlags.Unknown)) !== 0) return {};
  if ((flags & TypeFlags.Void) !== 0) return {};
  if ((flags & TypeFlags.Undefined) !== 0) return { type: "undefined" };
  if ((flags & TypeFlags.Null) !== 0) return { type: "null" };
  if ((flags & TypeFlags.Boolean) !== 0) return { type: "boolean" };
  const value = literalOf(type);
  if (value !== undefined) return { const: value };
  if ((flags & TypeFlags.StringLike) !== 0) return { type: "string" };
  if ((flags & TypeFlags.NumberLike) !== 0 && !type.isUnionType()) return { type: "number" };
  if ((flags & TypeFlags.BigIntLike) !== 0) return { type: "bigint" };
  if ((flags & TypeFlags.ESSymbolLike) !== 0) return { type: "symbol" };
  if (type.isUnionType()) return unionOf(checker, type.getTypes(), limits, within);
  if (type.isIntersectionType()) {
    // A branded type is an intersection of a primitive with a mark that no value has.
    const primitive = type.getTypes().find((type) => (type.flags & TypeFlags.Object) === 0);
    if (primitive) return valueSchemaOf(checker, primitive, limits, within);
  }
  if ((flags & TypeFlags.TypeParameter) !== 0) {
    const constraint = checker.getBaseConstraintOfType(type);
    return constraint && constraint.id !== type.id ? valueSchemaOf(checker, constraint, limits, within) : {};
  }
  if (within.open.has(type.id) || within.open.size >= limits.depth) return {};
  return objectOf(checker, type, limits, { ...within, open: new Set([...within.open, type.id]) });
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
  const name = type.getSymbol()?.name ?? "";
  const [element, second] = type.isTypeReference() ? checker.getTypeArguments(type) : [];
  const of = (item: Type | undefined): ValueSchema =>
    item ? valueSchemaOf(checker, item, limits, within) : {};
  if (checker.isTupleType(type) && type.isTypeReference())
    return { type: "array", prefixItems: checker.getTypeArguments(type).map(of), items: false };
  if (checker.isArrayType(type) || /^ReadonlyArray$/.test(name)) return { type: "array", items: of(element) };
  if (/^Promise(Like)?$/.test(name)) return { promise: of(element) };
  if (/^(Iterable|IterableIterator|Iterator|IteratorObject|Generator)$/.test(name))
    return { iterable: of(element) };
  if (/^Async(Iterable|IterableIterator|Iterator|Generator)$/.test(name))
    return { asyncIterable: of(element) };
  if (/^Readonly(Map|Set)$/.test(name)) return { instanceOf: name.slice("Readonly".length) };
  if (OF_LANGUAGE.test(name)) return { instanceOf: name };
  if (checker.getSignaturesOfType(type, SignatureKind.Call).length > 0) return { function: true };
  const alias = type.getAliasSymbol();
  const named = alias ?? type.getSymbol();
  if (named?.declarations.some(({ path }) => limits.isOutside(path)))
    return { opaque: named.name.startsWith("__") ? "object" : named.name };
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
  if (hasMethods || isClass) return { opaque: name.startsWith("__") ? "object" : name };
  const isOptional = (flags: SymbolFlags) => (flags & SymbolFlags.Optional) !== 0;
  return {
    type: "object",
    properties: Object.fromEntries(fields.map(([property, type]) => [property.name, of(type)])),
    required: fields.filter(([{ flags }]) => !isOptional(flags)).map(([property]) => property.name),
  };
}
