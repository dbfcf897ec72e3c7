import { check } from "../checks/contract-checks.ts";
import type { Finding } from "../finding.ts";
import type { Operation } from "../sequences/operations.ts";
import type { PlayTerms } from "../sequences/sequence-run.ts";
import type { Context, ContractCheck, Wrapper } from "../types.ts";
import { equalValues } from "../values/equality.ts";
import { formatValue, outcomeText } from "../values/format.ts";
import { answerOutcome, type SubjectOptions, shapeChecks, subjectWrapper } from "./decorator.ts";
import {
  callOf,
  type Probe,
  probesOf,
  reachedBy,
  type Wrapping,
  withoutUndefined,
  withSpied,
} from "./probe.ts";

/**
 * Declares an implementation to be a cache. It never returns a stale value, a value for other arguments, or a
 * failure that is over. A cache that may return stale values suppresses `stale`.
 */
export function cacheOf<Target extends object, Subject extends object = Target>(
  options: SubjectOptions<Target, Subject>,
): Wrapper<Target> {
  return subjectWrapper("cache", options, cacheChecks);
}

function cacheChecks(wrapping: Wrapping, context: Context<object>): readonly ContractCheck[] {
  return [
    ...shapeChecks(wrapping, context),
    check("returns nothing that its subject would not have", async () => {
      const { findings, notes } = await answerOutcome(wrapping, context);
      const stale = (found: Finding): Finding =>
        found.name === "result" ? { ...found, name: "stale" } : found;
      return { findings: findings.map(stale), notes };
    }),
    check("distinguishes different arguments", () => eachOperation(wrapping, context, confusionFinding)),
    check("caches no failure", () => eachOperation(wrapping, context, keptFailureFinding)),
  ];
}

type Examine = (
  wrapping: Wrapping,
  operation: Operation,
  probes: readonly Probe[],
  terms: PlayTerms,
) => Promise<Finding | undefined>;

async function eachOperation(
  wrapping: Wrapping,
  context: Context<object>,
  examine: Examine,
): Promise<readonly Finding[]> {
  const probes = (await probesOf(wrapping, context)).filter(
    ({ hint }) => hint.status === "returned" || hint.status === "resolved",
  );
  const findings: Finding[] = [];
  for (const operation of new Set(probes.map((probe) => probe.operation))) {
    const ownProbes = probes.filter((probe) => probe.operation === operation);
    const finding = await examine(wrapping, operation, ownProbes, context);
    if (finding) findings.push(finding);
  }
  return findings;
}

/** The subject answers each call with a number per distinct arguments, so that results cannot be confused. */
function confusionFinding(
  wrapping: Wrapping,
  operation: Operation,
  probes: readonly Probe[],
  terms: PlayTerms,
): Promise<Finding | undefined> {
  if (probes.every(({ hint }) => hint.raw === undefined)) return Promise.resolve(undefined);
  const lists = probes.flatMap(({ args }) => [args, ...nearTo(args, operation)]);
  const isLater = probes.some(({ hint }) => hint.status === "resolved");
  return withSpied(wrapping, async (wrapper, spy) => {
    const answers = new Map<unknown, readonly unknown[]>();
    spy.script = ({ key, args }, real) => {
      if (key !== operation.key) return real();
      const answer = { answer: answers.size };
      answers.set(answer, args);
      return isLater ? Promise.resolve(answer) : answer;
    };
    for (const args of lists) {
      const { raw, status } = await callOf(wrapper, operation, args, terms).outcome;
      const requested = answers.get(raw);
      if (
        status === "threw" ||
        status === "rejected" ||
        !requested ||
        equalValues(withoutUndefined(requested), withoutUndefined(args))
      )
        continue;
      return {
        name: "stale",
        place: operation.label,
        expected: `the subject's result for ${formatValue(args)}`,
        found: `its result for ${formatValue(requested)}`,
        remedy: "Include all arguments and their types in the cache key.",
      };
    }
    return undefined;
  });
}

/** A callee cannot distinguish a missing last argument from `undefined`, unless it counts them. */
/**
 * Arguments that are easily confused with others: one changed, of another type, left out, or strings that run
 * together.
 */
function nearTo(
  args: readonly unknown[],
  { args: argumentsOf, isTyped }: Operation,
): readonly (readonly unknown[])[] {
  const lists = args.flatMap((argument, place) =>
    variantsOf(argument).map((candidate) => args.with(place, candidate)),
  );
  const texts = args.flatMap((argument, place) => {
    if (typeof argument !== "string" || typeof args[place + 1] !== "string") return [];
    return SEPARATORS.flatMap((separator) => [
      args.with(place, `a${separator}b`).with(place + 1, "c"),
      args.with(place, "a").with(place + 1, `b${separator}c`),
    ]);
  });
  const near = [...lists, ...texts, args.slice(0, -1), [...args].reverse()];
  return isTyped ? near.filter((item) => argumentsOf.canShrinkWithoutContext(item)) : near;
}

/** Common separators of key parts. */
const SEPARATORS = [",", "", ":", "|", "-", "_", " ", "/"];

/** Values that convert to the same string as another, or nearly so. */
function variantsOf(value: unknown): readonly unknown[] {
  const nothing = [null, Number.NaN, "null", "undefined"];
  if (typeof value === "number") return [value + 1, -value - 1, String(value), ...nothing];
  return typeof value === "string" ? [`${value}x`, ...nothing] : nothing;
}

function keptFailureFinding(
  wrapping: Wrapping,
  operation: Operation,
  [probe]: readonly Probe[],
  terms: PlayTerms,
): Promise<Finding | undefined> {
  if (!probe) return Promise.resolve(undefined);
  const { args, hint } = probe;
  return withSpied(wrapping, async (wrapper, spy) => {
    const isLater = hint.status === "resolved";
    let isFailing = true;
    spy.script = ({ key }, real) => {
      if (key !== operation.key) return real();
      const error = new Error("the subject failed");
      if (isFailing && !isLater) throw error;
      if (isFailing) return Promise.reject(error);
      return isLater ? Promise.resolve(hint.raw) : hint.raw;
    };
    await callOf(wrapper, operation, args, terms).outcome;
    const before = reachedBy(spy, operation).length;
    isFailing = false;
    const again = await callOf(wrapper, operation, args, terms).outcome;
    if (before === 0 || reachedBy(spy, operation).length > before) return undefined;
    return {
      name: "stale",
      place: operation.label,
      expected: "the subject to be called again after it failed",
      found: outcomeText(again),
      remedy: "Cache results only; remove a promise from the cache when it rejects.",
    };
  });
}
