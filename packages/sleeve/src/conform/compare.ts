import { type Alike, equalValues } from "./alike.ts";
import { type CheckOptions, contextOf } from "./context.ts";
import type { Contract } from "./contract.ts";
import type { Equality } from "./differ.ts";
import { type Finding, findingText } from "./finding.ts";
import { type Given, type Implementation, implementationOf, untyped } from "./implementation.ts";
import type { Operation } from "./operations.ts";
import { type Difference, type SearchTerms, searchDifference } from "./search.ts";

/** What counts as the same answer. */
export interface EqualityOptions {
  /**
   * `"value"`, unless given: equal all the way down. `"identity"`: moreover, results that are one object on one side are one
   * on the other. A function says of two values whether they are alike; `within(tolerance)` makes one.
   */
  readonly equal?: "value" | "identity" | Alike;
  /** How much of an error counts: its class and message, unless given, or its class only. */
  readonly errors?: "message" | "class";
}

export interface CompareOptions extends CheckOptions, EqualityOptions {
  /** Brings back one sequence of an earlier comparison, together with its seed. */
  readonly path?: string;
}

export interface Comparison {
  readonly agrees: boolean;
  /** Where the two differ, with the shortest sequence of calls that shows it. */
  readonly finding: Finding | undefined;
  /** How many calls that sequence has. */
  readonly calls: number;
  readonly runs: number;
  readonly seed: number;
  /** Brings the sequence back, given together with the seed. */
  readonly path: string | undefined;
  /** What could not be compared, and why. */
  readonly notes: readonly string[];
}

/**
 * Makes the same generated sequences of calls on two implementations, also with calls that overlap, and tells where they
 * first answer differently: the old library and the new one, before and after, the real thing and its stand-in.
 *
 * @example
 * import { compare, comparisonText, contract } from "sleeve/conform";
 *
 * class Tank { #litres = 0; fill(litres: number) { return (this.#litres += litres); } }
 * class Leaky extends Tank { override fill(litres: number) { return super.fill(litres > 6 ? litres - 1 : litres); } }
 *
 * const tank = contract<Tank>("Tank");
 * const comparison = await compare(tank, { reference: () => new Tank(), candidate: () => new Leaky() });
 * console.log(comparisonText(comparison));
 */
export async function compare<Target extends object>(
  contract: Contract<Target>,
  { reference, candidate }: { readonly reference: Given<Target>; readonly candidate: Given<Target> },
  options: CompareOptions = {},
): Promise<Comparison> {
  const [known, given] = [implementationOf(reference), implementationOf(candidate)];
  const context = contextOf(contract, known, options);
  const { runs, seed } = context;
  const { difference, notes } = await searchDifference(
    await context.operations(),
    untyped(known),
    untyped(given),
    { ...context, path: options.path, equality: equalityOf(options) },
  );
  return {
    agrees: difference === undefined,
    finding: difference && differenceFinding(difference, seed, "the reference"),
    calls: difference?.steps.length ?? 0,
    runs,
    seed,
    path: difference?.path,
    notes,
  };
}

/** A comparison as text of a few lines. */
export function comparisonText({ agrees, finding, runs, seed, notes }: Comparison): string {
  const head = agrees ? `The two agree on ${runs} sequences of calls, seed ${seed}.` : "The two differ.";
  return [head, ...(finding ? [findingText(finding)] : []), ...notes, ""].join("\n");
}

/** Where a candidate answers otherwise than its reference, as a check tells it. */
export async function differenceOutcome(
  { reference, named }: { readonly reference: Implementation<object>; readonly named: string },
  candidate: Implementation<object>,
  operations: readonly Operation[],
  terms: Omit<SearchTerms, "path" | "equality">,
  equality: EqualityOptions = {},
): Promise<{ readonly findings: readonly Finding[]; readonly notes: readonly string[] }> {
  const search = { ...terms, path: undefined, equality: equalityOf(equality) };
  const { difference, notes } = await searchDifference(operations, reference, candidate, search);
  return { findings: difference ? [differenceFinding(difference, terms.seed, named)] : [], notes };
}

export function equalityOf({ equal = "value", errors = "message" }: EqualityOptions): Equality {
  return {
    alike: typeof equal === "function" ? equal : (left, right) => equalValues(left, right),
    byIdentity: equal === "identity",
    errors,
  };
}

function differenceFinding(
  { name, member, steps, expected, found, code, path }: Difference,
  seed: number,
  reference: string,
): Finding {
  const calls = steps.length === 1 ? "one call" : `${steps.length} calls`;
  return {
    name,
    place: member,
    expected: `as from ${reference}: ${expected}`,
    found: `after ${calls}: ${found}`,
    remedy: `Mend the wrapper. Seed ${seed} with path "${path}" brings the sequence back.`,
    code,
  };
}
