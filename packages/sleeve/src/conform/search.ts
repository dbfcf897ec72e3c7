import fc from "fast-check";
import { codeOf } from "./code.ts";
import { differenceOf, type Equality, type PlayedDifference } from "./differ.ts";
import { type Implementation, lend } from "./implementation.ts";
import type { Operation } from "./operations.ts";
import { macrotask, type Played, play } from "./play.ts";
import { asGenerated, awaited, type Step, sequencesOf } from "./steps.ts";

/** How a search for a difference is run. */
export interface SearchTerms {
  /** How many sequences are tried. */
  readonly runs: number;
  /** The most calls in a sequence. */
  readonly length: number;
  readonly seed: number;
  /** Brings back one sequence of an earlier search. */
  readonly path: string | undefined;
  /** How long a call may take, in milliseconds. */
  readonly deadline: number;
  readonly isConcurrent: boolean;
  readonly equality: Equality;
}

/** Where a candidate differs from its reference, shown by the shortest sequence of calls that was found. */
export interface Difference extends PlayedDifference {
  readonly member: string;
  readonly steps: readonly Step[];
  readonly code: string;
  /** With the seed, brings the sequence back. */
  readonly path: string;
}

export interface Search {
  readonly difference: Difference | undefined;
  /** What could not be compared, and why. */
  readonly notes: readonly string[];
}

/**
 * Looks for a sequence of calls to which two implementations answer differently, and for the shortest of its kind. What
 * the reference itself answers differently from one time to the next is left out, and told.
 */
export async function searchDifference(
  operations: readonly Operation[],
  reference: Implementation<object>,
  candidate: Implementation<object>,
  terms: SearchTerms,
): Promise<Search> {
  const notes: string[] = [];
  let [usable, { isConcurrent }] = [operations, terms];
  while (usable.length > 0) {
    const pair = new Pair(reference, candidate, { ...terms, isConcurrent });
    const difference = await pair.search(usable);
    if (!difference || (await pair.isSteady(difference.steps))) return { difference, notes };
    if (isConcurrent && (await pair.isSteady(difference.steps.map(awaited)))) {
      isConcurrent = false;
      notes.push(
        "Calls that overlap were not compared: the reference itself answers them differently each time.",
      );
    } else {
      usable = usable.filter(({ label }) => label !== difference.member);
      notes.push(
        `${difference.member} was not compared: the reference itself answers differently each time.`,
      );
    }
  }
  return { difference: undefined, notes };
}

/** So many more sequences are tried to shorten one that was found. */
const SHORTENINGS = 400;
/** And so many where each of them lasts until the deadline. */
const ENDLESS_SHORTENINGS = 12;

interface Latest {
  readonly difference: PlayedDifference;
  readonly steps: readonly Step[];
  readonly expected: Played;
}

class Pair {
  readonly #reference: Implementation<object>;
  readonly #candidate: Implementation<object>;
  readonly #terms: SearchTerms;
  readonly #guards = new Map<string, number>();
  #left = SHORTENINGS;
  #latest: Latest | undefined;
  #deadline: number;

  constructor(reference: Implementation<object>, candidate: Implementation<object>, terms: SearchTerms) {
    this.#reference = reference;
    this.#candidate = candidate;
    this.#terms = terms;
    this.#deadline = terms.deadline;
  }

  async search(operations: readonly Operation[]): Promise<Difference | undefined> {
    const { runs, seed, path } = this.#terms;
    let hasFailed = false;
    const property = fc.asyncProperty(sequencesOf(operations, this.#terms), async (steps) => {
      if (hasFailed && this.#left-- <= 0) return true;
      const difference = await this.#difference(steps);
      if (difference && !hasFailed) {
        hasFailed = true;
        // To shorten a sequence without an end takes many tries, each of which would last to the deadline.
        if (difference.name === "unsettled") {
          this.#deadline = Math.min(this.#deadline, 100);
          this.#left = ENDLESS_SHORTENINGS;
        }
      }
      return difference === undefined;
    });
    const details = await fc.check(property, { numRuns: runs, seed, ...(path !== undefined && { path }) });
    if (!details.failed) return undefined;
    await this.#shorten((details.counterexample as [readonly Step[]])[0]);
    this.#deadline = this.#terms.deadline;
    const { difference, steps, expected } = this.#latest as Latest;
    const member = steps[difference.at]?.operation.label ?? "";
    return {
      ...difference,
      steps,
      member,
      code: codeOf(steps, expected, difference.at),
      // The rest of it tells how the sequence was shortened, which is done again in the same way.
      path: details.counterexamplePath?.split(":")[0] ?? "",
    };
  }

  /** Whether the reference answers the steps in the same way whenever it is asked. */
  async isSteady(steps: readonly Step[]): Promise<boolean> {
    for (let turn = 0; turn < 3; turn += 1) {
      const played = await this.#played(this.#reference, steps);
      await macrotask();
      const again = await this.#played(this.#reference, steps);
      if (differenceOf(steps, played, again, this.#terms.equality)) return false;
    }
    return true;
  }

  async #difference(steps: readonly Step[]): Promise<PlayedDifference | undefined> {
    let [expected, difference] = await this.#playedBoth(steps);
    // That the machine stood still for once is no difference. What is really without an end costs the deadline once more.
    if (difference?.name === "unsettled" && this.#latest?.difference.name !== "unsettled")
      [expected, difference] = await this.#playedBoth(steps);
    // A candidate may differ once and not again, so that what was seen is kept, and not looked for anew.
    if (difference) this.#latest = { difference, steps: relevant(steps, difference), expected };
    return difference;
  }

  async #playedBoth(steps: readonly Step[]): Promise<readonly [Played, PlayedDifference | undefined]> {
    const expected = await this.#played(this.#reference, steps);
    const found = await this.#played(this.#candidate, steps);
    return [expected, differenceOf(steps, expected, found, this.#terms.equality)];
  }

  #played(implementation: Implementation<object>, steps: readonly Step[]): Promise<Played> {
    return lend(implementation, (made) =>
      play(made, steps, { deadline: this.#deadline, guards: this.#guards }),
    );
  }

  /** Makes a sequence shorter until no one or two of its steps can be spared any more. */
  async #shorten(found: readonly Step[]): Promise<void> {
    let steps = found;
    const first = await this.#difference(steps);
    if (first) steps = relevant(steps, first);
    let tries = first?.name === "unsettled" ? ENDLESS_SHORTENINGS : SHORTENINGS;
    const shortened = async (candidate: readonly Step[]): Promise<boolean> => {
      if (candidate.length === 0 || tries-- <= 0) return false;
      const difference = await this.#difference(candidate);
      if (!difference) return false;
      steps = relevant(candidate, difference);
      return true;
    };
    for (let isShorter = true; isShorter; ) {
      isShorter = false;
      for (let at = steps.length - 1; at >= 0 && !isShorter; at -= 1)
        isShorter = await shortened(steps.filter((_, index) => index !== at));
      for (let at = steps.length - 1; at > 0 && !isShorter; at -= 1)
        for (let other = at - 1; other >= 0 && !isShorter; other -= 1)
          isShorter = await shortened(steps.filter((_, index) => index !== at && index !== other));
    }
    if (steps.some(({ isAwaited }) => !isAwaited)) await shortened(steps.map(awaited));
    await shortened(steps.map(withoutEarlier));
  }
}

/** What comes after a call is of no matter to it, unless it was still under way. */
function relevant(steps: readonly Step[], { at }: PlayedDifference): readonly Step[] {
  return steps[at]?.isAwaited ? steps.slice(0, at + 1) : steps;
}

function withoutEarlier(step: Step): Step {
  return { ...step, args: step.args.map(asGenerated) };
}
