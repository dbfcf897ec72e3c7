import { isThenable } from "../../shared/thenable.ts";
/**
 * The allowed values, as a subset of JSON Schema 2020-12 with some keywords for values that are not JSON. The
 * empty schema allows any value.
 */
export interface ValueSchema {
  readonly type?: string | readonly string[];
  readonly const?: unknown;
  readonly enum?: readonly unknown[];
  readonly anyOf?: readonly ValueSchema[];
  readonly minimum?: number;
  readonly maximum?: number;
  readonly minLength?: number;
  readonly maxLength?: number;
  readonly pattern?: string;
  readonly format?: string;
  readonly items?: ValueSchema | boolean;
  readonly prefixItems?: readonly ValueSchema[];
  readonly minItems?: number;
  readonly maxItems?: number;
  readonly uniqueItems?: boolean;
  readonly properties?: Readonly<Record<string, ValueSchema>>;
  readonly required?: readonly string[];
  readonly additionalProperties?: ValueSchema | boolean;
  /** An instance of a built-in class: `Date`, `Map`, `Uint8Array`. */
  readonly instanceOf?: string;
  /** A promise of a value that matches this schema. */
  readonly promise?: ValueSchema;
  /** A function. Generated callbacks record how they are called. */
  readonly function?: boolean;
  /** An iterable or async iterable. */
  readonly iterable?: ValueSchema;
  readonly asyncIterable?: ValueSchema;
  /** The object that the member belongs to. */
  readonly self?: boolean;
  /** An object whose members are unknown. */
  readonly opaque?: string;
}

/**
 * Returns why a value does not match a schema, or `undefined` if it does. Promises and iterators are not
 * awaited.
 */
export function schemaViolation(value: unknown, schema: ValueSchema, path = ""): string | undefined {
  const wrong = (expected: string) => `${path || "it"} is ${kindOf(value)} where ${expected} is declared`;
  const keyword = KEYWORDS.find(({ isUsed }) => isUsed(schema));
  if (keyword) return keyword.holds(value, schema) ? undefined : wrong(keyword.expected(schema));
  if (schema.type === undefined) return undefined;
  const types = typeof schema.type === "string" ? [schema.type] : schema.type;
  if (!types.some((type) => isOfType(value, type))) return wrong(schemaText(schema));
  if (Array.isArray(value)) return itemViolation(value, schema, path);
  return isObject(value) && !isThenable(value) ? fieldViolation(value, schema, path) : undefined;
}

/** A keyword of a schema that decides alone whether a value matches. */
interface Keyword {
  readonly isUsed: (schema: ValueSchema) => boolean;
  readonly holds: (value: unknown, schema: ValueSchema) => boolean;
  readonly expected: (schema: ValueSchema) => string;
}

const KEYWORDS: readonly Keyword[] = [
  {
    isUsed: ({ anyOf }) => anyOf !== undefined,
    holds: (value, { anyOf = [] }) => anyOf.some((part) => schemaViolation(value, part) === undefined),
    expected: schemaText,
  },
  {
    isUsed: (schema) => "const" in schema,
    holds: (value, schema) => Object.is(value, schema.const),
    expected: (schema) => String(schema.const),
  },
  {
    isUsed: (schema) => schema.enum !== undefined,
    holds: (value, schema) => schema.enum?.includes(value) === true,
    expected: schemaText,
  },
  {
    isUsed: (schema) => schema.function === true,
    holds: (value) => typeof value === "function",
    expected: () => "a function",
  },
  {
    isUsed: ({ promise }) => promise !== undefined,
    holds: isThenable,
    expected: () => "a promise",
  },
  {
    isUsed: ({ iterable }) => iterable !== undefined,
    holds: (value) => hasSymbol(value, Symbol.iterator),
    expected: () => "an iterable",
  },
  {
    isUsed: ({ asyncIterable }) => asyncIterable !== undefined,
    holds: (value) => hasSymbol(value, Symbol.asyncIterator),
    expected: () => "an async iterable",
  },
  {
    isUsed: ({ instanceOf }) => instanceOf !== undefined,
    holds: (value, { instanceOf }) =>
      tagOf(value) === instanceOf || (value as object | null)?.constructor?.name === instanceOf,
    expected: ({ instanceOf }) => `a ${instanceOf}`,
  },
  {
    isUsed: (schema) => schema.opaque !== undefined || schema.self === true,
    holds: isObject,
    expected: ({ opaque }) => opaque ?? "the object itself",
  },
];

function itemViolation(
  value: readonly unknown[],
  { items, prefixItems = [] }: ValueSchema,
  path: string,
): string | undefined {
  for (const [index, item] of value.entries()) {
    const schema = prefixItems[index] ?? (typeof items === "object" ? items : {});
    const reason = schemaViolation(item, schema, `${path}[${index}]`);
    if (reason) return reason;
  }
  return undefined;
}

function fieldViolation(
  value: object,
  { properties = {}, required = [], additionalProperties }: ValueSchema,
  path: string,
): string | undefined {
  for (const name of required) {
    if (!(name in value)) return `${path || "it"} has no ${name}`;
  }
  for (const [name, field] of Object.entries(value)) {
    const propertySchema = properties[name];
    const schema =
      propertySchema ?? (typeof additionalProperties === "object" ? additionalProperties : undefined);
    if (!schema || (field === undefined && propertySchema && !required.includes(name))) continue;
    const reason = schemaViolation(field, schema, `${path}.${name}`);
    if (reason) return reason;
  }
  return undefined;
}

function isOfType(value: unknown, type: string): boolean {
  switch (type) {
    case "null":
      return value === null;
    case "undefined":
      return value === undefined;
    case "integer":
      return Number.isInteger(value);
    case "array":
      return Array.isArray(value);
    case "object":
      return isObject(value) && !Array.isArray(value);
    default:
      return typeof value === type;
  }
}

export function isObject(value: unknown): value is object {
  return (typeof value === "object" && value !== null) || typeof value === "function";
}

/** A native promise, as a factory may return. Another thenable may be what it creates. */
export function isPromise(value: unknown): value is Promise<unknown> {
  return value instanceof Promise || (isObject(value) && tagOf(value) === "Promise");
}

export function isIterator(value: unknown): boolean {
  return isObject(value) && typeof Reflect.get(value, "next") === "function";
}

/** Returns the value of a member; `undefined` if it cannot be read. */
export function safeGet(object: object, key: PropertyKey): unknown {
  try {
    return Reflect.get(object, key);
  } catch {
    return undefined;
  }
}

function hasSymbol(value: unknown, symbol: symbol): boolean {
  return value !== null && value !== undefined && typeof Reflect.get(Object(value), symbol) === "function";
}

export function tagOf(value: unknown): string {
  return Object.prototype.toString.call(value).slice(8, -1);
}

/** Describes a value in one or two words. */
export function kindOf(value: unknown): string {
  if (value === null || value === undefined) return String(value);
  if (typeof value === "object") return isThenable(value) ? "a promise" : `a ${tagOf(value)}`;
  if (typeof value === "string") return value.length > 40 ? "a text" : JSON.stringify(value);
  return typeof value === "function" ? "a function" : String(value);
}

/** Describes a schema in a few words. */
export function schemaText(schema: ValueSchema): string {
  if (schema.anyOf) return schema.anyOf.map(schemaText).join(" or ");
  if ("const" in schema) return JSON.stringify(schema.const);
  if (schema.enum) return schema.enum.map((item) => JSON.stringify(item)).join(" or ");
  if (schema.instanceOf !== undefined) return `a ${schema.instanceOf}`;
  if (schema.opaque !== undefined) return `a ${schema.opaque}`;
  if (schema.promise) return "a promise";
  if (schema.function) return "a function";
  if (schema.iterable ?? schema.asyncIterable) return "an iterable";
  if (schema.type === undefined) return "any value";
  const types = typeof schema.type === "string" ? [schema.type] : schema.type;
  return types
    .map((type) => (/^(null|undefined)$/.test(type) ? type : `${/^[aeiou]/.test(type) ? "an" : "a"} ${type}`))
    .join(" or ");
}
