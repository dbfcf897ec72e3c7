const LONGEST = 500;

/** Returns source for a value of plain data; `undefined` for any other, and for one that is long. */
export function sourceOfValue(value: unknown): string | undefined {
  const source = sourceOf(value, 0);
  return source !== undefined && source.length <= LONGEST ? source : undefined;
}

function sourceOf(value: unknown, depth: number): string | undefined {
  if (value === null || typeof value === "boolean" || typeof value === "string") return JSON.stringify(value);
  if (value === undefined) return "undefined";
  if (typeof value === "number") return Object.is(value, -0) ? "-0" : String(value);
  if (typeof value === "bigint") return `${value}n`;
  if (typeof value !== "object" || depth > 6) return undefined;
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
  return fields.includes(undefined) ? undefined : fields.length === 0 ? "{}" : `{ ${fields.join(", ")} }`;
}
