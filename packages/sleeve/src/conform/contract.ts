import { type Arbitrary, asyncProperty, type IAsyncProperty } from "fast-check";
import type { Surface } from "../surface/surface.ts";

/** Runs over one implementation and throws, or rejects, where that falls short. */
export type Example<Target> = (implementation: Target) => unknown;

/** What holds for all values of a kind. Make one with {@link law}. */
export interface Law<Target> {
  property(implementation: Target): IAsyncProperty<[unknown]>;
}

/** A call that has to fail, and with which class of error. */
export interface Refusal<Target> {
  readonly call: (implementation: Target) => unknown;
  // An error class may have any constructor; only what it makes matters here.
  readonly error: ErrorClass;
}

export type ErrorClass = abstract new (...args: never[]) => Error;

/** What every implementation of a target must do. */
export interface Contract<Target> {
  readonly name: string;
  readonly surface: Surface<Target>;
  /** By name, each a statement of what one call does. */
  readonly examples: Readonly<Record<string, Example<Target>>>;
  /** By name, each a statement of what holds for all values. */
  readonly laws: Readonly<Record<string, Law<Target>>>;
  /** By name, each a call that has to fail. */
  readonly refusals: Readonly<Record<string, Refusal<Target>>>;
  /** The classes of the errors that may escape to the client. */
  readonly errors: readonly ErrorClass[];
}

/**
 * States what every implementation of a target must do, once for all of them.
 *
 * @example
 * import fc from "fast-check";
 * import { contract, law, near } from "sleeve/conform";
 *
 * interface Depths { metresAt(berth: number): number }
 *
 * export const depths = contract<Depths>("Depths", {
 *   surface: { metresAt: "method" },
 *   examples: {
 *     "berth 4 is dredged to 6.2 m": (table) => near(table.metresAt(4), 6.2, { within: 0.05, unit: "metres" }),
 *   },
 *   laws: {
 *     "no berth is above water": law(fc.integer({ min: 1, max: 24 }), (table, berth) => table.metresAt(berth) > 0),
 *   },
 *   refusals: {
 *     "a berth that does not exist": { call: (table) => table.metresAt(99), error: RangeError },
 *   },
 *   errors: [RangeError],
 * });
 */
export function contract<Target>(
  name: string,
  terms: Pick<Contract<Target>, "surface"> & Partial<Omit<Contract<Target>, "name" | "surface">>,
): Contract<Target> {
  return { name, examples: {}, laws: {}, refusals: {}, errors: [], ...terms };
}

/**
 * A law: what holds for all values of a kind, tried on generated ones. It is broken where `holds` gives `false`,
 * throws or rejects; the value is then shrunk to its simplest form.
 *
 * @param given makes the values; of the fast-check package
 */
export function law<Target, Value>(
  given: Arbitrary<Value>,
  holds: (implementation: Target, value: Value) => unknown,
): Law<Target> {
  return {
    property: (implementation) =>
      // The runner prints the value and never reads it, so what kind it is need not be known there.
      asyncProperty(given, async (value) => {
        if ((await holds(implementation, value)) === false) throw new Error("it gave false");
      }) as IAsyncProperty<[unknown]>,
  };
}
