/** Returns a text that is equal for arguments of equal value. */
export function plainKey(
  args: readonly (string | number | bigint | boolean | null | undefined | Date)[],
): string {
  return args
    .map((value) => {
      if (typeof value === "string") return JSON.stringify(value);
      if (typeof value === "bigint") return `${value}n`;
      if (value instanceof Date) return `Date(${value.getTime()})`;
      return Object.is(value, -0) ? "-0" : String(value);
    })
    .join(",");
}
