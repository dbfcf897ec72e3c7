import { SleeveError } from "../../shared/errors.ts";

/**
 * Units that are often confused, each with its size in the base unit of its quantity. Source: the
 * international foot (0.3048 m) and nautical mile (1852 m).
 */
const UNITS = {
  metres: { of: "length", size: 1 },
  feet: { of: "length", size: 0.3048 },
  fathoms: { of: "length", size: 1.8288 },
  centimetres: { of: "length", size: 0.01 },
  kilometres: { of: "length", size: 1000 },
  "nautical miles": { of: "length", size: 1852 },
  "metres a second": { of: "speed", size: 1 },
  knots: { of: "speed", size: 1852 / 3600 },
  "kilometres an hour": { of: "speed", size: 1 / 3.6 },
  seconds: { of: "time", size: 1 },
  milliseconds: { of: "time", size: 0.001 },
  minutes: { of: "time", size: 60 },
  hours: { of: "time", size: 3600 },
  radians: { of: "angle", size: 1 },
  degrees: { of: "angle", size: Math.PI / 180 },
  kilograms: { of: "mass", size: 1 },
  tonnes: { of: "mass", size: 1000 },
} as const;

export type Unit = keyof typeof UNITS;

export interface Tolerance {
  /** Maximum difference, in `unit`. Default: 0. */
  readonly within: number;
  readonly unit: Unit;
}

/**
 * Requires a quantity to be close to an expected value. If it is off by the factor between two units, the
 * message names the unit it seems to be in.
 *
 * @throws {SleeveError} `NOT_CONFORMING`
 */
export function closeTo(actual: number, expected: number, { within, unit }: Tolerance): void {
  if (Math.abs(actual - expected) <= within) return;
  const mistaken = mistakenUnit(actual, expected, within, unit);
  const hint = mistaken ? `: that is ${expected} ${unit} in ${mistaken}, so a conversion is missing` : "";
  throw new SleeveError(
    "NOT_CONFORMING",
    `${rounded(actual)} where ${expected} ± ${within} ${unit} was expected${hint}`,
  );
}

function mistakenUnit(actual: number, expected: number, within: number, unit: Unit): Unit | undefined {
  const { of, size } = UNITS[unit];
  const others = (Object.keys(UNITS) as Unit[]).filter(
    (candidate) => candidate !== unit && UNITS[candidate].of === of,
  );
  return others.find((candidate) => Math.abs((actual * UNITS[candidate].size) / size - expected) <= within);
}

function rounded(value: number): number {
  return Number(value.toPrecision(6));
}
