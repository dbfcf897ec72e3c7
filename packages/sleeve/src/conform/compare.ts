import { contextOf } from "./context.ts";
import { type Finding, findingText } from "./finding.ts";
import { implementationOf, untyped } from "./implementation.ts";
import type { Equality } from "./sequences/difference.ts";
import type { Operation } from "./sequences/operations.ts";
import { type Difference, type SearchTerms, searchDifference } from "./sequences/search.ts";
import type {
  CheckOptions,
  Contract,
  EqualityOptions,
  Implementation,
  ImplementationInput,
} from "./types.ts";
import { equalValues } from "./values/equality.ts";

export interface CompareOptions extends CheckOptions, EqualityOptions {}

export interface Comparison {
  readonly agrees: boolean;
  /** Where the implementations differ, with the shortest sequence of calls that shows it. */
  readonly finding: Finding | undefined;
  /** Number of calls in that sequence. */
  readonly calls: number;
  readonly runs: number;
  readonly seed: number;
  /** Replays the sequence, together with the seed. */
  readonly path: string | undefined;
  /** What could not be compared, and why. */
  readonly notes: readonly string[];
}

/**
 * Makes the same generated calls on two implementations, including overlapping calls, and reports the first
 * difference: between an old and a new library, before and after a change, the real thing and its fake.
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
  {
    reference,
    candidate,
  }: { readonly reference: ImplementationInput<Target>; readonly candidate: ImplementationInput<Target> },
  options: CompareOptions = {},
): Promise<Comparison> {
  const [referenceImplementation, input] = [implementationOf(reference), implementationOf(candidate)];
  const context = contextOf(contract, referenceImplementation, options);
  const { runs, seed } = context;
  const { difference, notes } = await searchDifference(
    await context.operations(),
    untyped(referenceImplementation),
    untyped(input),
    { ...context, equality: equalityOf(options) },
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

/** Formats a comparison as a few lines of text. */
export function comparisonText({ agrees, finding, runs, seed, notes }: Comparison): string {
  const head = agrees
    ? `No difference in ${runs} sequences of calls, seed ${seed}.`
    : "The implementations differ.";
  return [head, ...(finding ? [findingText(finding)] : []), ...notes, ""].join("\n");
}

/**
 * Formats a difference between candidate and reference as a check outcome. With `byIdentity`, a result that is an
 * object seen before must be one on both sides.
 */
export async function differenceOutcome(
  { reference, named }: { readonly reference: Implementation<object>; readonly named: string },
  candidate: Implementation<object>,
  operations: readonly Operation[],
  terms: Omit<SearchTerms, "equality">,
  equality: EqualityOptions = {},
  byIdentity = false,
): Promise<{ readonly findings: readonly Finding[]; readonly notes: readonly string[] }> {
  const search = { ...terms, equality: equalityOf(equality, byIdentity) };
  const { difference, notes } = await searchDifference(operations, reference, candidate, search);
  return { findings: difference ? [differenceFinding(difference, terms.seed, named)] : [], notes };
}

export function equalityOf(
  { equal = "value", errors = "message" }: EqualityOptions,
  byIdentity = false,
): Equality {
  return {
    equal: typeof equal === "function" ? equal : (left, right) => equalValues(left, right),
    byIdentity: equal === "identity" || byIdentity,
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
    remedy: `Fix the wrapper. Reproduce with seed ${seed} and path "${path}".`,
    code,
  };
}
