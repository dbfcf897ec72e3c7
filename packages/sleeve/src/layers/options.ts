import { badOption } from "../errors.ts";

/** A length of time: milliseconds, or a number with its unit, such as `"250ms"`, `"10s"`, `"5m"`, `"2h"` or `"1d"`. */
export type Duration = number | `${number}${"ms" | "s" | "m" | "h" | "d"}`;

const MILLISECONDS: Readonly<Record<string, number>> = {
  ms: 1,
  s: 1000,
  m: 60_000,
  h: 3_600_000,
  d: 86_400_000,
};

/**
 * A duration in milliseconds.
 *
 * @throws {SleeveError} `BAD_OPTION` where it is none, or negative
 */
export function millisecondsOf(duration: Duration, option: string): number {
  const [, amount, unit] = /^(\d+(?:\.\d+)?)(ms|s|m|h|d)$/.exec(String(duration)) ?? [];
  const milliseconds =
    typeof duration === "number" ? duration : Number(amount) * (MILLISECONDS[unit ?? ""] ?? NaN);
  if (milliseconds >= 0) return milliseconds;
  throw badOption(
    `${option} is ${JSON.stringify(duration)}, which is no length of time. Give milliseconds, or a number with its unit, such as "250ms" or "10s".`,
  );
}

/**
 * A whole number of at least so many.
 *
 * @throws {SleeveError} `BAD_OPTION` where it is none
 */
export function wholeNumber(value: number, least: number, option: string): number {
  if (value === Number.POSITIVE_INFINITY || (Number.isInteger(value) && value >= least)) return value;
  throw badOption(`${option} is ${value}. Give a whole number of at least ${least}.`);
}

/**
 * A function that an option has to be.
 *
 * @throws {SleeveError} `BAD_OPTION` where it is none
 */
export function requireFunction(value: unknown, option: string): void {
  if (typeof value !== "function") throw badOption(`${option} is ${String(value)}. Give a function.`);
}
