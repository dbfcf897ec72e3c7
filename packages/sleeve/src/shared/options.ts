import { badOption } from "./errors.ts";

/**
 * A duration: a number of milliseconds, or a number with a unit, such as `"250ms"`, `"10s"`, `"5m"`, `"2h"`
 * or `"1d"`.
 */
export type Duration = number | `${number}${"ms" | "s" | "m" | "h" | "d"}`;

const MILLISECONDS: Readonly<Record<string, number>> = {
  ms: 1,
  s: 1000,
  m: 60_000,
  h: 3_600_000,
  d: 86_400_000,
};

/**
 * Returns a duration in milliseconds.
 *
 * @throws {SleeveError} `BAD_OPTION` for an invalid or negative duration
 */
export function millisecondsOf(duration: Duration, option: string): number {
  const milliseconds = typeof duration === "number" ? duration : durationIn(duration);
  if (milliseconds >= 0) return milliseconds;
  throw badOption(
    `${option} is ${JSON.stringify(duration)}, which is not a duration. Pass milliseconds, or a number with a unit, such as "250ms" or "10s".`,
  );
}

function durationIn(text: string): number {
  const [, amount, unit = ""] = /^(\d+(?:\.\d+)?)(ms|s|m|h|d)$/.exec(String(text)) ?? [];
  return Number(amount) * (MILLISECONDS[unit] ?? Number.NaN);
}

/**
 * Returns a whole number of at least `least`, or infinity.
 *
 * @throws {SleeveError} `BAD_OPTION` for any other value
 */
export function wholeNumber(value: number, min: number, option: string): number {
  if (value === Number.POSITIVE_INFINITY || (Number.isInteger(value) && value >= min)) return value;
  throw badOption(`${option} is ${value}. Pass a whole number of at least ${min}.`);
}

/**
 * Checks that a value is an object with no other options than those that exist, so that a misspelt one is noticed.
 *
 * @param example how to write the options, for the message
 * @throws {SleeveError} `BAD_OPTION` for any other value
 */
export function requireOptions(
  options: unknown,
  name: string,
  optionNames: readonly string[],
  example: string,
): void {
  if (typeof options !== "object" || options === null || Array.isArray(options))
    throw badOption(
      `${name}: the options are ${describeValue(options)}. Pass an object, such as ${example}.`,
    );
  for (const key of Object.keys(options)) {
    if (!optionNames.includes(key))
      throw badOption(`${name}: there is no option \`${key}\`. Its options: ${optionNames.join(", ")}.`);
  }
}

/** Checks the option `only` of a layer: a list of member names, or a predicate. */
export function requireOnly(only: unknown, name: string): void {
  const isKey = (key: unknown) =>
    typeof key === "string" || typeof key === "symbol" || typeof key === "number";
  if (only === undefined || typeof only === "function") return;
  if (Array.isArray(only) && only.every(isKey)) return;
  throw badOption(
    `${name}: \`only\` is ${describeValue(only)}. Pass a list of member names, such as ["heightAt"], or a predicate.`,
  );
}

/** Names a value in a message. */
export function describeValue(value: unknown): string {
  if (typeof value === "function") return value.name ? `the function ${value.name}` : "a function";
  if (Array.isArray(value)) return "an array";
  if (typeof value === "object" && value !== null) return "an object";
  return typeof value === "string" ? JSON.stringify(value) : String(value);
}

/**
 * Checks that an option is a function.
 *
 * @throws {SleeveError} `BAD_OPTION` for any other value
 */
export function requireFunction(value: unknown, option: string): void {
  if (typeof value !== "function") throw badOption(`${option} is ${describeValue(value)}. Pass a function.`);
}
