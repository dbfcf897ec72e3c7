import fc from "fast-check";
import { SleeveError } from "../../errors.ts";
import type { StandardSchema } from "../../layers/guard.ts";
import { codeOf } from "../code.ts";
import type { Context } from "../context.ts";
import type { ResultCheck } from "../contract.ts";
import type { Finding } from "../finding.ts";
import { type Implementation, lend } from "../implementation.ts";
import type { Operation } from "../operations.ts";
import { type Played, play, SELF, type Seen } from "../play.ts";
import { playAll } from "../play-all.ts";
import { isThenable, unfit } from "../schema.ts";
import { type Step, sequencesOf } from "../steps.ts";
import { errorText, seenText, shown } from "../text.ts";
import { Shape } from "./shape.ts";
import { escapedFinding, isAllowed } from "./terms.ts";

/**
 * What is wrong with an implementation whatever it is for: under generated calls, a call that does not end, something thrown
 * that is no error, an argument that is changed, a result of another shape than was told, a member that comes or goes. The
 * run goes on after each, without the member that it was about.
 */
export async function behaviourFindings<Target extends object>(
  implementation: Implementation<Target>,
  context: Context<Target>,
): Promise<readonly Finding[]> {
  const shape = new Shape(context.contract.surface);
  const findings: Finding[] = [];
  const told = new Set<string>();
  let operations = await context.operations();
  await lend(implementation, async (made) => {
    shape.take(made);
    // That a member is missing is told by another check.
    operations = operations.filter(({ key }) => key === undefined || key in made);
  });
  while (operations.length > 0) {
    const met = await firstFinding(implementation, operations, context, shape);
    if (!met) return findings;
    const { finding } = met;
    findings.push({ ...finding, ...(await codeFor(met, implementation, context, shape)) });
    told.add(finding.place);
    shape.forget(finding.place);
    if (finding.name === "unsettled") context.endless.add(finding.place);
    operations = operations.filter(({ label }) => !told.has(label));
  }
  return findings;
}

/** A finding, with the steps that led to it. */
interface Met {
  readonly finding: Finding;
  readonly steps: readonly Step[];
}

async function firstFinding<Target extends object>(
  implementation: Implementation<Target>,
  operations: readonly Operation[],
  context: Context<Target>,
  shape: Shape,
): Promise<Met | undefined> {
  const { runs, seed, length, isConcurrent, coverage } = context;
  const sequences = fc.sample(sequencesOf(operations, { length, isConcurrent }), { seed, numRuns: runs });
  let met: Met | undefined;
  await playAll(implementation, sequences, context, (made, steps, played) => {
    coverage.notePlayed(steps, played);
    const judged = (finding: Finding | undefined): boolean => {
      if (finding) met = { finding, steps: steps.slice(0, played.seen.length) };
      return finding === undefined;
    };
    const finding = playedFinding(steps, played, context);
    if (!isThenable(finding)) return judged(finding ?? shape.findingIn(made));
    return finding.then((found) => judged(found ?? shape.findingIn(made)));
  });
  return met;
}

/** So many shorter sequences are tried to show a finding by. */
const SHORTENINGS = 30;

/** The shortest sequence that shows a finding, as code: mostly the one call that it is about. */
async function codeFor<Target extends object>(
  { finding, steps }: Met,
  implementation: Implementation<Target>,
  context: Context<Target>,
  shape: Shape,
): Promise<{ readonly code?: string }> {
  const terms =
    finding.name === "unsettled" ? { ...context, deadline: Math.min(context.deadline, 100) } : context;
  let left = SHORTENINGS;
  const shows = async (candidate: readonly Step[]): Promise<Played | undefined> => {
    left -= 1;
    return lend(implementation, async (made) => {
      const played = await play(made, candidate, terms);
      const found = (await playedFinding(candidate, played, context)) ?? shape.findingIn(made);
      return found?.name === finding.name && found.place === finding.place ? played : undefined;
    });
  };
  const last = steps.findLast(({ operation }) => operation.label === finding.place);
  let shortest = last && (await shows([last])) ? [last] : steps;
  for (let at = shortest.length - 2; at >= 0 && left > 0; at -= 1) {
    const shorter = shortest.filter((_, index) => index !== at);
    if (await shows(shorter)) shortest = shorter;
  }
  const played = await shows(shortest);
  return played ? { code: codeOf(shortest, played) } : {};
}

/** What is wrong with a sequence that was played; a promise of it where a check of the contract takes its time. */
function playedFinding<Target extends object>(
  steps: readonly Step[],
  played: Played,
  context: Context<Target>,
): Finding | undefined | Promise<Finding | undefined> {
  const { results } = context.contract;
  const hasResults = Object.keys(results).length > 0;
  for (let at = 0; at < played.seen.length; at += 1) {
    const step = steps[at] as Step;
    const seen = played.seen[at] as Seen;
    // Most calls answer, and nobody told with what.
    if (seen.status === "returned" && step.operation.results.length === 0) continue;
    const finding = seenFinding(step, seen, context) ?? toldFinding(step, seen);
    if (finding) return finding;
  }
  const mutated = mutatedFinding(steps, played, context);
  return mutated || !hasResults ? mutated : resultsFinding(steps, played, results);
}

async function resultsFinding(
  steps: readonly Step[],
  played: Played,
  results: Readonly<Record<string, ResultCheck<never>>>,
): Promise<Finding | undefined> {
  for (const [at, seen] of played.seen.entries()) {
    const step = steps[at] as Step;
    const { label } = step.operation;
    const check = Object.hasOwn(results, label) ? results[label] : undefined;
    const finding = check && (await resultFinding(step, seen, check));
    if (finding) return finding;
  }
  return undefined;
}

function mutatedFinding<Target extends object>(
  steps: readonly Step[],
  { mutated }: Played,
  { contract }: Context<Target>,
): Finding | undefined {
  // The reference says whether a call is meant to change its arguments.
  const at = contract.reference ? undefined : mutated[0];
  if (at === undefined) return undefined;
  return {
    name: "mutated",
    place: (steps[at] as Step).operation.label,
    expected: "the arguments as they were before the call",
    found: "an argument that was changed by it",
    remedy: "Work on a copy, or waive `mutated` with the reason if the target says so.",
  };
}

function seenFinding<Target extends object>(
  { operation: { label, isTyped, results } }: Step,
  seen: Seen,
  { deadline, contract: { errors } }: Context<Target>,
): Finding | undefined {
  const { status, raw } = seen;
  if (status === "unsettled") {
    return {
      name: "unsettled",
      place: label,
      expected: `an end within ${deadline} ms`,
      found: "none",
      remedy: `Find what ${label} waits for, or give the run a longer \`deadline\`.`,
    };
  }
  if (status === "returned" || status === "resolved") return undefined;
  if (!isError(raw)) {
    return {
      name: "nonerror",
      place: label,
      expected: "an error, where a call fails",
      found: `${status} ${errorText(raw)}`,
      remedy: "Throw an Error: it has a stack, and whoever catches it can tell what it is.",
    };
  }
  if (isTyped && errors !== undefined && !isAllowed(raw, errors) && !isMisuse(raw))
    return escapedFinding(label, `${status} ${errorText(raw)}`, errors);
  if (status === "threw" && isTyped && results.length > 0 && results.every(({ promise }) => promise)) {
    return {
      name: "async",
      place: label,
      expected: "a promise, rejected where the call fails",
      found: `thrown at once: ${errorText(raw)}`,
      remedy: `Make ${label} an async function: who waits for a promise does not look for what is thrown.`,
    };
  }
  return undefined;
}

/** What a wrapper of this library says to a client that goes on using it after its end is no error of what it wraps. */
function isMisuse(error: unknown): boolean {
  return error instanceof SleeveError && /^(RELEASED|REVOKED)$/.test(error.code);
}

/** Errors of another realm are errors too. */
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

/** Whether an answer is what the surface tells of it. */
function toldFinding({ operation: { label, results, isTyped } }: Step, seen: Seen): Finding | undefined {
  if (!isTyped || results.length === 0 || (seen.status !== "returned" && seen.status !== "resolved"))
    return undefined;
  const reasons = results.map((schema) => {
    if ((schema.promise !== undefined) !== (seen.status === "resolved")) return "async";
    return seen.value === SELF ? undefined : unfit(seen.raw, schema.promise ?? schema);
  });
  if (reasons.includes(undefined)) return undefined;
  const remedy = `Mend what ${label} gives back.`;
  const reason = reasons.find((each) => each !== "async");
  if (reason !== undefined) {
    const found = `${seenText(seen)}; ${reason}`;
    return { name: "result", place: label, expected: "a result as the surface tells it", found, remedy };
  }
  const expected = results[0]?.promise ? "a promise" : "an answer at once";
  return { name: "async", place: label, expected, found: seenText(seen), remedy };
}

/** Whether an answer is what the contract says of it. */
async function resultFinding(
  { operation: { label } }: Step,
  seen: Seen,
  check: ResultCheck<never>,
): Promise<Finding | undefined> {
  if (seen.status !== "returned" && seen.status !== "resolved") return undefined;
  const found = await resultReason(check, seen.raw);
  if (!found) return undefined;
  const remedy = `Mend what ${label} gives back.`;
  return { name: "result", place: label, expected: "a result as the contract tells it", found, remedy };
}

async function resultReason(check: ResultCheck<never>, value: unknown): Promise<string | undefined> {
  if (typeof check === "function" && !("~standard" in check)) {
    // The contract's own type has it that the results of this member are what the check takes.
    return (check as (result: unknown) => boolean)(value) ? undefined : shown(value);
  }
  const result = (check as StandardSchema)["~standard"].validate(value);
  const settled = isThenable(result) ? await result : result;
  const issues = "issues" in settled ? settled.issues : undefined;
  return issues && `${shown(value)}: ${issues.map(({ message }) => message).join("; ")}`;
}
