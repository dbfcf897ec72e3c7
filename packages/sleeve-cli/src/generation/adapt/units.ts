/** Units by dimension, with how many of the base unit each is. */
const UNITS: Readonly<Record<string, Readonly<Record<string, number>>>> = {
  length: {
    metre: 1, metres: 1, meter: 1, meters: 1, kilometre: 1000, kilometres: 1000, kilometer: 1000, kilometers: 1000, km: 1000,
    centimetres: 0.01, centimeters: 0.01, cm: 0.01, millimetres: 0.001, millimeters: 0.001, mm: 0.001, foot: 0.3048, feet: 0.3048,
    ft: 0.3048, inch: 0.0254, inches: 0.0254, yard: 0.9144, yards: 0.9144, mile: 1609.344, miles: 1609.344, fathom: 1.8288,
    fathoms: 1.8288,
  },
  time: {
    milliseconds: 1, millisecond: 1, millis: 1, ms: 1, second: 1000, seconds: 1000, sec: 1000, secs: 1000, minute: 60_000,
    minutes: 60_000, hour: 3_600_000, hours: 3_600_000,
  },
  mass: { gram: 1, grams: 1, kilogram: 1000, kilograms: 1000, kg: 1000, tonne: 1e6, tonnes: 1e6, pound: 453.59237, pounds: 453.59237, lb: 453.59237, lbs: 453.59237 },
  size: { byte: 1, bytes: 1, kilobytes: 1000, kb: 1000, megabytes: 1e6, mb: 1e6 },
  speed: { kmh: 1, mph: 1.609344, knot: 1.852, knots: 1.852 },
}; // biome-ignore format: a table

/** What converts a number from the unit in one name to the unit in another. */
export interface UnitConversion {
  readonly factor: number;
  readonly from: string;
  readonly to: string;
}

/** Returns how numbers are converted between the units that two names contain; `undefined` if both are the same or unknown. */
export function unitConversion(from: string, to: string): UnitConversion | undefined {
  for (const units of Object.values(UNITS)) {
    const [own, other] = [unitIn(from, units), unitIn(to, units)];
    if (own === undefined || other === undefined) continue;
    const factor = (units[own] ?? 1) / (units[other] ?? 1);
    if (factor !== 1) return { factor: Number(factor.toPrecision(12)), from: own, to: other };
  }
  return undefined;
}

/** Returns the dimension of a unit; `undefined` for any other word. */
export function dimensionOf(word: string): string | undefined {
  return Object.keys(UNITS).find((dimension) => Object.hasOwn(UNITS[dimension] ?? {}, word));
}

/** Returns the words of a name in lower case: `toISOString` has `to`, `iso` and `string`. */
export function wordsOf(name: string): readonly string[] {
  return name
    .replace(/(?<=[\p{Ll}\d])(?=\p{Lu})|(?<=\p{Lu})(?=\p{Lu}\p{Ll})/gu, " ")
    .split(/[^\p{L}\d]+/u)
    .filter((word) => word !== "")
    .map((word) => word.toLowerCase());
}

function unitIn(name: string, units: Readonly<Record<string, number>>): string | undefined {
  return wordsOf(name).find((word) => Object.hasOwn(units, word));
}
