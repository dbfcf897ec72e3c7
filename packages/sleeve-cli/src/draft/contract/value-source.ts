const LONGEST = 500;
const MAX_DEPTH = 6;

/** Returns source for a value of plain data; `undefined` for any other, and for one that is long. */
export function sourceOfValue(value: unknown): string | undefined {
  const source = sourceOf(value, 0);
  return source !== undefined && source.length <= LONGEST ? source : undefined;
}

function sourceOf(value: unknown, depth: number): string | undefined {
  switch (typeof value) {
    case "undefined":
      return "undefined";
    case "string":
    case "boolean":
      return JSON.stringify(value);
    case "number":
      return Object.is(value, -0) ? "-0" : String(value);
    case "bigint":
      return `${value}n`;
    case "object":
      return value === null ? "null" : sourceOfObject(value, depth);
    default:
      return undefined;
  }
}

function sourceOfObject(value: object, depth: number): string | undefined {
  if (depth > MAX_DEPTH) return undefined;
  if (value instanceof Date)
    return Number.isNaN(value.getTime()) ? undefined : `new Date("${value.toISOString()}")`;
  if (Array.isArray(value)) {
    const items = value.map((item) => sourceOf(item, depth + 1));
    return items.includes(undefined) ? undefined : `[${items.join(", ")}]`;
  }
  const prototype: unknown = Object.getPrototypeOf(value);
  if (prototype !== Object.prototype && prototype !== null) return undefined;
  const fields = Object.entries(value).map(([key, field]) => {
    const source = sourceOf(field, depth + 1);
    return source === undefined ? undefined : `${JSON.stringify(key)}: ${source}`;
  });
  if (fields.includes(undefined)) return undefined;
  return fields.length === 0 ? "{}" : `{ ${fields.join(", ")} }`;
}
