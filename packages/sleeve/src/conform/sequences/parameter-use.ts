import type { ValueSchema } from "../values/schema.ts";

/** How code uses one of its arguments, as far as a value that records its uses shows. */
export class ParameterUse {
  /** Hints of the conversions to a primitive value: by arithmetic and comparison, in texts, or by `+`. */
  readonly hints = new Set<string>();
  /** The fields and methods that were read. */
  readonly fields = new Map<PropertyKey, ParameterUse>();
  isCalled = false;
}

/** Fields that code reads from any object, such as to find out whether it is a promise. */
const READ_OF_ALL: ReadonlySet<PropertyKey> = new Set([
  "then",
  "toJSON",
  "constructor",
  "prototype",
  "__proto__",
  "nodeType",
  "$$typeof",
  "asymmetricMatch",
  Symbol.toStringTag,
]);

/** Maximum depth of fields, and number of uses; code that reads more probably does not end. */
const MAX_DEPTH = 4;
const MAX_USES = 200;

/**
 * Returns a value that records how it is used. It is an object, or a function if `isFunction`; its fields are such
 * values too, and it is converted to 1 or "a".
 */
export function recordingValue(use: ParameterUse, isFunction = false, depth = 0): unknown {
  let uses = 0;
  const field = (key: PropertyKey): unknown => {
    uses += 1;
    if (depth >= MAX_DEPTH || uses > MAX_USES) return undefined;
    const cached = use.fields.get(key) ?? new ParameterUse();
    use.fields.set(key, cached);
    return recordingValue(cached, true, depth + 1);
  };
  return new Proxy(isFunction ? () => undefined : {}, {
    get(_, key) {
      if (key === Symbol.toPrimitive)
        return (hint: string) => {
          use.hints.add(hint);
          return hint === "string" ? "a" : 1;
        };
      if (READ_OF_ALL.has(key)) return undefined;
      if (key === Symbol.iterator) {
        const item = field(key);
        return () => [item].values();
      }
      return field(key);
    },
    has: (_, key) => field(key) !== undefined,
    apply: () => {
      use.isCalled = true;
      return recordingValue(new ParameterUse(), false, depth + 1);
    },
  });
}

/**
 * Returns a schema of the values that fit a use; `undefined` if the use does not show it.
 *
 * @param result what the code returned, which shows whether `+` added numbers or joined texts
 */
export function schemaOfUse(
  { hints, fields, isCalled }: ParameterUse,
  result: unknown,
): ValueSchema | undefined {
  if (isCalled && fields.size === 0) return { function: true };
  const names = [...fields.keys()];
  if (names.length > 0) {
    if (names.every((name) => belongsTo(Date.prototype, name))) return { instanceOf: "Date" };
    const isText = names.every((name) => belongsTo(String.prototype, name));
    const isList = names.every((name) => belongsTo(Array.prototype, name));
    if (isText && isList) return { anyOf: [{ type: "string" }, { type: "array" }] };
    if (isText) return { type: "string" };
    if (isList) return { type: "array" };
    // A map or set has methods only, and a stream or an element has some that cannot be generated.
    if ([...fields.values()].some((field) => field.isCalled)) return undefined;
    const properties = Object.fromEntries(
      [...fields].flatMap(([name, field]) =>
        typeof name === "string" ? [[name, schemaOfUse(field, result) ?? {}] as const] : [],
      ),
    );
    return { type: "object", properties, required: Object.keys(properties) };
  }
  if (hints.has("number")) return { type: "number" };
  if (hints.has("string")) return { type: "string" };
  if (!hints.has("default")) return undefined;
  return typeof result === "number" || typeof result === "string"
    ? { type: typeof result }
    : { anyOf: [{ type: "number" }, { type: "string" }] };
}

/** Whether instances have a field: a method of the prototype, an index, or a length. */
function belongsTo(prototype: object, name: PropertyKey): boolean {
  if (name in Object.prototype) return true;
  if (prototype === Date.prototype) return Object.hasOwn(prototype, name);
  return Object.hasOwn(prototype, name) || (typeof name === "string" && /^\d+$/.test(name));
}
