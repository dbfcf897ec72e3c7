import fc from "fast-check";
import type { StandardSchema } from "../../layers/core/value-checks.ts";
import { SleeveError } from "../../shared/errors.ts";
import { isThenable } from "../../shared/thenable.ts";
import { stallsSoFar } from "../execution/stalls.ts";
import type { Finding } from "../finding.ts";
import { withImplementation } from "../implementation.ts";
import type { Operation } from "../sequences/operations.ts";
import { runSequences } from "../sequences/run-sequences.ts";
import { runSequence, SELF, type SequenceResult, type StepOutcome } from "../sequences/sequence-run.ts";
import { type Step, sequencesOf } from "../sequences/steps.ts";
import { stepsCode } from "../sequences/steps-code.ts";
import type { Context, Implementation, ResultCheck } from "../types.ts";
import { errorText, formatValue, outcomeText } from "../values/format.ts";
import { schemaViolation } from "../values/schema.ts";
import { escapedFinding, isAllowed } from "./examples.ts";
import { InterfaceSnapshot } from "./interface-snapshot.ts";

/**
 * Finds problems that do not depend on the purpose of an implementation, with generated calls: calls that do
 * not end, thrown values that are not errors, changed arguments, results that do not match the surface, and
 * members that appear or disappear. Continues after each finding without that member.
 */
export async function behaviourFindings<Target extends object>(
  implementation: Implementation<Target>,
  context: Context<Target>,
): Promise<readonly Finding[]> {
  const shape = new InterfaceSnapshot(context.contract.surface);
  const findings: Finding[] = [];
  const reported = new Set<string>();
  const stalls = stallsSoFar();
  let operations = await context.operations();
  await withImplementation(implementation, async (instance) => {
    shape.take(instance);
    // Another check reports a missing member.
    operations = operations.filter(({ key }) => key === undefined || key in instance);
  });
  while (operations.length > 0) {
    const met = await firstFinding(implementation, operations, context, shape);
    if (!met) return findings;
    const { finding } = met;
    findings.push({ ...finding, ...(await codeFor(met, implementation, context, shape)) });
    reported.add(finding.place);
    shape.forget(finding.place);
    if (finding.name === "unsettled" && stallsSoFar() === stalls) context.endless.add(finding.place);
    operations = operations.filter(({ label }) => !reported.has(label));
  }
  return findings;
}

/** A finding with the steps that led to it. */
interface BehaviourFailure {
  readonly finding: Finding;
  readonly steps: readonly Step[];
}

async function firstFinding<Target extends object>(
  implementation: Implementation<Target>,
  operations: readonly Operation[],
  context: Context<Target>,
  shape: InterfaceSnapshot,
): Promise<BehaviourFailure | undefined> {
  const { runs, seed, length, isConcurrent, coverage } = context;
  const sequences = fc.sample(sequencesOf(operations, { length, isConcurrent }), { seed, numRuns: runs });
  let met: BehaviourFailure | undefined;
  await runSequences(implementation, sequences, context, (instance, steps, played) => {
    coverage.notePlayed(steps, played);
    const judged = (finding: Finding | undefined): boolean => {
      if (finding) met = { finding, steps: steps.slice(0, played.outcomes.length) };
      return finding === undefined;
    };
    const finding = playedFinding(steps, played, context);
    if (!isThenable(finding)) return judged(finding ?? shape.findingIn(instance));
    return finding.then((finding) => judged(finding ?? shape.findingIn(instance)));
  });
  return met;
}

/** Maximum number of shorter sequences tried per finding. */
const SHORTENINGS = 30;

/** Returns the shortest sequence that shows a finding, as code. Usually it is a single call. */
async function codeFor<Target extends object>(
  { finding, steps }: BehaviourFailure,
  implementation: Implementation<Target>,
  context: Context<Target>,
  shape: InterfaceSnapshot,
): Promise<{ readonly code?: string }> {
  const terms =
    finding.name === "unsettled" ? { ...context, timeout: Math.min(context.timeout, 100) } : context;
  let remaining = SHORTENINGS;
  const shows = async (candidate: readonly Step[]): Promise<SequenceResult | undefined> => {
    remaining -= 1;
    return withImplementation(implementation, async (instance) => {
      const played = await runSequence(instance, candidate, terms);
      const found = (await playedFinding(candidate, played, context)) ?? shape.findingIn(instance);
      return found?.name === finding.name && found.place === finding.place ? played : undefined;
    });
  };
  const last = steps.findLast(({ operation }) => operation.label === finding.place);
  let shortest = last && (await shows([last])) ? [last] : steps;
  for (let at = shortest.length - 2; at >= 0 && remaining > 0; at -= 1) {
    const shorter = shortest.filter((_, index) => index !== at);
    if (await shows(shorter)) shortest = shorter;
  }
  const played = await shows(shortest);
  return played ? { code: stepsCode(shortest, played) } : {};
}

/**
 * Returns the first finding in the result of a sequence, or a promise if a check of the contract is
 * asynchronous.
 */
function playedFinding<Target extends object>(
  steps: readonly Step[],
  played: SequenceResult,
  context: Context<Target>,
): Finding | undefined | Promise<Finding | undefined> {
  const { results } = context.contract;
  const hasResults = Object.keys(results).length > 0;
  for (let at = 0; at < played.outcomes.length; at += 1) {
    const step = steps[at] as Step;
    const outcome = played.outcomes[at] as StepOutcome;
    // Most calls return, and have no declared result.
    if (outcome.status === "returned" && step.operation.results.length === 0) continue;
    const finding = outcomeFinding(step, outcome, context) ?? signatureFinding(step, outcome);
    if (finding) return finding;
  }
  const mutated = mutatedFinding(steps, played, context);
  return mutated || !hasResults ? mutated : resultsFinding(steps, played, results);
}

async function resultsFinding(
  steps: readonly Step[],
  played: SequenceResult,
  results: Readonly<Record<string, ResultCheck<never>>>,
): Promise<Finding | undefined> {
  for (const [at, outcome] of played.outcomes.entries()) {
    const step = steps[at] as Step;
    const { label } = step.operation;
    const check = Object.hasOwn(results, label) ? results[label] : undefined;
    const finding = check && (await resultFinding(step, outcome, check));
    if (finding) return finding;
  }
  return undefined;
}

function mutatedFinding<Target extends object>(
  steps: readonly Step[],
  { mutated }: SequenceResult,
  { contract }: Context<Target>,
): Finding | undefined {
  // The reference shows whether a call is meant to change its arguments.
  const at = contract.reference ? undefined : mutated[0];
  if (at === undefined) return undefined;
  return {
    name: "mutated",
    place: (steps[at] as Step).operation.label,
    expected: "the arguments unchanged by the call",
    found: "an argument changed by the call",
    remedy: "Work on a copy, or suppress `mutated` with the reason if the target allows it.",
  };
}

function outcomeFinding<Target extends object>(
  { operation: { label, isTyped, results } }: Step,
  outcome: StepOutcome,
  { timeout, contract: { errors } }: Context<Target>,
): Finding | undefined {
  const { status, raw } = outcome;
  if (status === "unsettled") {
    return {
      name: "unsettled",
      place: label,
      expected: `an end within ${timeout} ms`,
      found: "none",
      remedy: `Find what ${label} waits for, or raise \`timeout\`.`,
    };
  }
  if (status === "returned" || status === "resolved") return undefined;
  if (!isError(raw)) {
    return {
      name: "nonerror",
      place: label,
      expected: "an error if a call fails",
      found: `${status} ${errorText(raw)}`,
      remedy: "Throw an Error, which has a stack and a class to catch it by.",
    };
  }
  if (isTyped && errors !== undefined && !isAllowed(raw, errors) && !isMisuse(raw))
    return escapedFinding(label, `${status} ${errorText(raw)}`, errors);
  if (status === "threw" && isTyped && results.length > 0 && results.every(({ promise }) => promise)) {
    return {
      name: "async",
      place: label,
      expected: "a promise, rejected if the call fails",
      found: `an error thrown synchronously: ${errorText(raw)}`,
      remedy: `Make ${label} an async function; callers of a promise do not expect a synchronous throw.`,
    };
  }
  return undefined;
}

/** An error of this library for use after a release is not an error of the wrapped code. */
function isMisuse(error: unknown): boolean {
  return error instanceof SleeveError && /^(RELEASED|REVOKED)$/.test(error.code);
}

/** Includes errors of other realms. */
function isError(value: unknown): boolean {
  return (
    value instanceof Error ||
    Object.prototype.toString.call(value) === "[object Error]" ||
    isDomException(value)
  );
}

function isDomException(value: unknown): boolean {
  return Object.prototype.toString.call(value) === "[object DOMException]";
}

/** Checks a result against the surface. */
function signatureFinding(
  { operation: { label, results, isTyped } }: Step,
  outcome: StepOutcome,
): Finding | undefined {
  if (!isTyped || results.length === 0 || (outcome.status !== "returned" && outcome.status !== "resolved"))
    return undefined;
  const reasons = results.map((schema) => {
    if ((schema.promise !== undefined) !== (outcome.status === "resolved")) return "async";
    return outcome.value === SELF ? undefined : schemaViolation(outcome.raw, schema.promise ?? schema);
  });
  if (reasons.includes(undefined)) return undefined;
  const remedy = `Correct the result of ${label}.`;
  const reason = reasons.find((reason) => reason !== "async");
  if (reason !== undefined) {
    const finding = `${outcomeText(outcome)}; ${reason}`;
    return {
      name: "result",
      place: label,
      expected: "a result that matches the surface",
      found: finding,
      remedy,
    };
  }
  const expected = results[0]?.promise ? "a promise" : "a synchronous result";
  return { name: "async", place: label, expected, found: outcomeText(outcome), remedy };
}

/** Checks a result against the contract. */
async function resultFinding(
  { operation: { label } }: Step,
  outcome: StepOutcome,
  check: ResultCheck<never>,
): Promise<Finding | undefined> {
  if (outcome.status !== "returned" && outcome.status !== "resolved") return undefined;
  const finding = await resultReason(check, outcome.raw);
  if (!finding) return undefined;
  const remedy = `Correct the result of ${label}.`;
  return {
    name: "result",
    place: label,
    expected: "a result that matches the contract",
    found: finding,
    remedy,
  };
}

async function resultReason(check: ResultCheck<never>, value: unknown): Promise<string | undefined> {
  if (typeof check === "function" && !("~standard" in check)) {
    // The contract's type guarantees that the check accepts this member's results.
    return (check as (result: unknown) => boolean)(value) ? undefined : formatValue(value);
  }
  const result = (check as StandardSchema)["~standard"].validate(value);
  const settled = isThenable(result) ? await result : result;
  const issues = "issues" in settled ? settled.issues : undefined;
  return issues && `${formatValue(value)}: ${issues.map(({ message }) => message).join("; ")}`;
}
