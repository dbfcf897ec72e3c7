import fc from "fast-check";
import { withImplementation } from "../implementation.ts";
import type { Implementation } from "../types.ts";
import { badContract } from "../values/arbitraries.ts";
import { formatValue } from "../values/format.ts";
import { differenceOf, type Equality, type PlayedDifference } from "./difference.ts";
import { isMeaningless } from "./learned-arguments.ts";
import type { Operation } from "./operations.ts";
import { macrotask, runSequence, type SequenceResult } from "./sequence-run.ts";
import { asGenerated, awaited, type Step, sequencesOf } from "./steps.ts";
import { stepsCode } from "./steps-code.ts";

/** Options of a search for a difference. */
export interface SearchTerms {
  /** Number of sequences to try. */
  readonly runs: number;
  /** Maximum number of calls in a sequence. */
  readonly length: number;
  readonly seed: number;
  /** Replays one sequence of an earlier search. */
  readonly path: string | undefined;
  /** Timeout of a call, in milliseconds. */
  readonly timeout: number;
  readonly isConcurrent: boolean;
  readonly equality: Equality;
}

/** A difference between candidate and reference, with the shortest sequence of calls that was found. */
export interface Difference extends PlayedDifference {
  readonly member: string;
  readonly steps: readonly Step[];
  readonly code: string;
  /** Replays the sequence, together with the seed. */
  readonly path: string;
}

export interface Search {
  readonly difference: Difference | undefined;
  /** What could not be compared, and why. */
  readonly notes: readonly string[];
}

/**
 * Searches for a sequence of calls that two implementations answer differently, and for the shortest one.
 * Calls that the reference itself answers differently from time to time are excluded and noted.
 */
export async function searchDifference(
  operations: readonly Operation[],
  reference: Implementation<object>,
  candidate: Implementation<object>,
  terms: SearchTerms,
): Promise<Search> {
  const notes: string[] = [];
  let [usable, { isConcurrent }] = [operations, terms];
  let isLearned = !terms.path?.startsWith(ALL);
  if (!isLearned) usable = usable.map(withAllArguments);
  while (usable.length > 0) {
    const runs = isLearned ? terms.runs : Math.ceil(terms.runs / SHARE_OF_ALL);
    const pair = new Pair(reference, candidate, {
      ...terms,
      isConcurrent,
      runs,
      path: terms.path?.replace(ALL, ""),
    });
    const difference = await pair.search(usable);
    if (!difference) {
      if (!isLearned || terms.path !== undefined || !usable.some(({ learned }) => learned)) break;
      isLearned = false;
      usable = usable.map(withAllArguments);
      continue;
    }
    if (await pair.isSteady(difference.steps)) {
      if (isLearned) return { difference, notes };
      if (!pair.isMeaningless(difference))
        return { difference: { ...difference, path: `${ALL}${difference.path}` }, notes };
      notes.push(undefinedText(difference));
      usable = usable.filter(({ label }) => label !== difference.member);
      continue;
    }
    await requireSeparate(reference);
    if (isConcurrent && (await pair.isSteady(difference.steps.map(awaited)))) {
      isConcurrent = false;
      notes.push(
        "Overlapping calls were not compared: the reference itself answers them differently each time.",
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

/** Begins the path of a sequence whose arguments are of all kinds. */
const ALL = "all:";
/** Share of such sequences. */
const SHARE_OF_ALL = 8;

/** Returns an operation with arguments of all kinds, also those that it does not handle. */
function withAllArguments(operation: Operation): Operation {
  const { learned } = operation;
  return learned ? { ...operation, args: learned.all } : operation;
}

function undefinedText({ member, steps, at, expected, found }: Difference): string {
  const args = (steps[at]?.args ?? []).map(asGenerated);
  return `Undefined behaviour: ${member}(${args.map(formatValue).join(", ")}) differs (${expected}; here ${found}). It is no finding, because the reference does not handle such arguments.`;
}

/** An object with state that is created once would carry it from one sequence to the next. */
async function requireSeparate({ create, release }: Implementation<object>): Promise<void> {
  const [one, candidate] = [await create(), await create()];
  for (const instance of new Set([one, candidate])) await release?.(instance);
  if (one === candidate)
    throw badContract(
      "The subject or reference is the same object each time, and keeps state from one sequence to the next. Create a new one in its function.",
    );
}

/** Maximum number of sequences tried to shorten one. */
const SHORTENINGS = 400;
/** The same, if each of them waits for late callbacks. */
const LATE_SHORTENINGS = 40;
/** The first time to wait for late callbacks, in milliseconds. */
const FIRST_CALLBACK_TIME = 8;
/** The same, if each of them lasts until the timeout. */
const ENDLESS_SHORTENINGS = 12;

interface Latest {
  readonly difference: PlayedDifference;
  readonly steps: readonly Step[];
  readonly expected: SequenceResult;
}

class Pair {
  readonly #reference: Implementation<object>;
  readonly #candidate: Implementation<object>;
  readonly #terms: SearchTerms;
  readonly #guards = new Map<string, number>();
  #left = SHORTENINGS;
  #latest: Latest | undefined;
  #timeout: number;
  /** Time in which late callbacks were called, as far as known, in milliseconds. */
  #callbackTime: number | undefined;

  constructor(reference: Implementation<object>, candidate: Implementation<object>, terms: SearchTerms) {
    this.#reference = reference;
    this.#candidate = candidate;
    this.#terms = terms;
    this.#timeout = terms.timeout;
  }

  async search(operations: readonly Operation[]): Promise<Difference | undefined> {
    const { runs, seed, path } = this.#terms;
    let hasFailed = false;
    const property = fc.asyncProperty(sequencesOf(operations, this.#terms), async (steps) => {
      if (hasFailed && this.#left-- <= 0) return true;
      const difference = await this.#difference(steps);
      if (difference && !hasFailed) {
        hasFailed = true;
        // Shortening a sequence that does not end takes many runs, each until the timeout.
        if (difference.name === "unsettled") {
          this.#timeout = Math.min(this.#timeout, 100);
          this.#left = ENDLESS_SHORTENINGS;
        }
      }
      return difference === undefined;
    });
    const details = await fc.check(property, { numRuns: runs, seed, ...(path !== undefined && { path }) });
    if (!details.failed) return undefined;
    await this.#shorten((details.counterexample as [readonly Step[]])[0]);
    this.#timeout = this.#terms.timeout;
    const { difference, steps, expected } = this.#latest as Latest;
    const member = steps[difference.at]?.operation.label ?? "";
    return {
      ...difference,
      steps,
      member,
      code: stepsCode(steps, expected, difference),
      // The rest of the path encodes the shrinking, which is repeated.
      path: details.counterexamplePath?.split(":")[0] ?? "",
    };
  }

  /** Whether a difference depends on arguments that the reference does not handle. */
  isMeaningless({ steps }: Difference): boolean {
    return steps.some(({ operation, args }, at) => {
      const outcome = this.#latest?.expected.outcomes[at];
      return outcome !== undefined && isMeaningless(operation, args.map(asGenerated), outcome);
    });
  }

  /** Whether the reference answers the steps in the same way each time. */
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
    // A stalled machine is not a difference. A sequence that really does not end costs one more timeout.
    if (difference?.name === "unsettled" && this.#latest?.difference.name !== "unsettled")
      [expected, difference] = await this.#playedBoth(steps);
    if (difference?.name === "callback" && this.#callbackTime === undefined)
      [expected, difference] = await this.#withLateCallbacks(steps);
    // A candidate may differ only once, so the observed difference is kept.
    if (difference) this.#latest = { difference, steps: relevant(steps, difference), expected };
    return difference;
  }

  /** Repeats a sequence with more time for callbacks, until both sides agree or the timeout is reached. */
  async #withLateCallbacks(
    steps: readonly Step[],
  ): Promise<readonly [SequenceResult, PlayedDifference | undefined]> {
    let shortest: number | undefined;
    let before: PlayedDifference | undefined;
    for (let time = FIRST_CALLBACK_TIME; ; time = Math.min(4 * time, this.#timeout)) {
      this.#callbackTime = time;
      const [expected, difference] = await this.#playedBoth(steps);
      if (difference?.name !== "callback") {
        // Most other sequences need no time.
        this.#callbackTime = undefined;
        return [expected, difference];
      }
      if (difference.expected !== before?.expected || difference.found !== before.found) shortest = time;
      before = difference;
      if (time < this.#timeout) continue;
      // Shortening waits only as long as the callbacks take.
      this.#callbackTime = shortest;
      this.#left = Math.min(this.#left, LATE_SHORTENINGS);
      return [expected, difference];
    }
  }

  async #playedBoth(
    steps: readonly Step[],
  ): Promise<readonly [SequenceResult, PlayedDifference | undefined]> {
    const expected = await this.#played(this.#reference, steps);
    const finding = await this.#played(this.#candidate, steps);
    return [expected, differenceOf(steps, expected, finding, this.#terms.equality)];
  }

  #played(implementation: Implementation<object>, steps: readonly Step[]): Promise<SequenceResult> {
    return withImplementation(implementation, (instance) =>
      runSequence(instance, steps, {
        timeout: this.#timeout,
        guards: this.#guards,
        ...(this.#callbackTime !== undefined && { callbackTime: this.#callbackTime }),
      }),
    );
  }

  /** Shortens a sequence until no one or two of its steps can be removed. */
  async #shorten(found: readonly Step[]): Promise<void> {
    let steps = found;
    const first = await this.#difference(steps);
    if (first) steps = relevant(steps, first);
    const shortenings = this.#callbackTime === undefined ? SHORTENINGS : LATE_SHORTENINGS;
    let tries = first?.name === "unsettled" ? ENDLESS_SHORTENINGS : shortenings;
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
        for (let earlier = at - 1; earlier >= 0 && !isShorter; earlier -= 1)
          isShorter = await shortened(steps.filter((_, index) => index !== at && index !== earlier));
    }
    if (steps.some(({ isAwaited }) => !isAwaited)) await shortened(steps.map(awaited));
    await shortened(steps.map(withoutEarlier));
  }
}

/** Later steps do not matter to a call, unless it was still in flight. */
function relevant(steps: readonly Step[], { at }: PlayedDifference): readonly Step[] {
  return steps[at]?.isAwaited ? steps.slice(0, at + 1) : steps;
}

function withoutEarlier(step: Step): Step {
  return { ...step, args: step.args.map(asGenerated) };
}
