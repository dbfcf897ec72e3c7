/**
 * Returns a string that is equal for arguments of equal value.
 *
 * Primitives, dates, and plain objects and arrays of them are compared by value, with object keys in any
 * order. Instances of other classes, functions and symbols are compared by identity.
 */
export function argumentsKey(args: readonly unknown[]): string {
  return args.length === 1 ? keyOf(args[0], 0) : args.map((argument) => keyOf(argument, 0)).join(",");
}

function keyOf(value: unknown, depth: number): string {
  switch (typeof value) {
    case "string":
      return JSON.stringify(value);
    case "number":
      return Object.is(value, -0) ? "-0" : String(value);
    case "bigint":
      return `${value}n`;
    case "boolean":
    case "undefined":
      return String(value);
    case "symbol":
      return identityOf(value, symbols);
    case "function":
      return identityOf(value, objects);
    default:
      return value === null ? "null" : keyOfObject(value as object, depth);
  }
}

/** Objects nested deeper than this, and circular ones, are compared by identity. */
const MAX_KEY_DEPTH = 16;

function keyOfObject(value: object, depth: number): string {
  if (value instanceof Date) return `Date(${value.getTime()})`;
  if (depth === MAX_KEY_DEPTH) return identityOf(value, objects);
  if (Array.isArray(value)) return `[${value.map((item) => keyOf(item, depth + 1)).join(",")}]`;
  const prototype: unknown = Object.getPrototypeOf(value);
  if (prototype !== Object.prototype && prototype !== null) return identityOf(value, objects);
  const fields = Object.entries(value).sort(([left], [right]) => (left < right ? -1 : 1));
  return `{${fields.map(([key, item]) => `${JSON.stringify(key)}:${keyOf(item, depth + 1)}`).join(",")}}`;
}

const objects = new WeakMap<object, number>();
const symbols = new Map<symbol, number>();
let last = 0;

/** Whether a key depends on identities that only this process knows. */
export function isProcessLocal(key: string): boolean {
  return /#\d/.test(key.replace(/"(?:[^"\\]|\\.)*"/g, ""));
}

function identityOf<Key>(
  value: Key,
  identities: { get(key: Key): number | undefined; set(key: Key, number: number): unknown },
): string {
  let number = identities.get(value);
  if (number === undefined) {
    number = ++last;
    identities.set(value, number);
  }
  return `#${number}`;
}
