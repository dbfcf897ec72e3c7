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
  const [, amount, unit] = /^(\d+(?:\.\d+)?)(ms|s|m|h|d)$/.exec(String(duration)) ?? [];
  const milliseconds =
    typeof duration === "number" ? duration : Number(amount) * (MILLISECONDS[unit ?? ""] ?? NaN);
  if (milliseconds >= 0) return milliseconds;
  throw badOption(
    `${option} is ${JSON.stringify(duration)}, which is not a duration. Pass milliseconds, or a number with a unit, such as "250ms" or "10s".`,
  );
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
 * Checks that an option is a function.
 *
 * @throws {SleeveError} `BAD_OPTION` for any other value
 */
export function requireFunction(value: unknown, option: string): void {
  if (typeof value !== "function") throw badOption(`${option} is ${String(value)}. Pass a function.`);
}
