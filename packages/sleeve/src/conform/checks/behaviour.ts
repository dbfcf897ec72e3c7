import fc from "fast-check";
import { SleeveError } from "../../errors.ts";
import type { StandardSchema } from "../../layers/guard.ts";
import { codeOf } from "../code.ts";
import type { Context } from "../context.ts";
import type { ResultCheck } from "../contract.ts";
import type { Finding } from "../finding.ts";
import { type Implementation, lend } from "../implementation.ts";
import { membersOf } from "../operations.ts";
import { type Played, play, SELF, type Seen } from "../play.ts";
import { isThenable, unfit } from "../schema.ts";
import { type Step, sequencesOf } from "../steps.ts";
import { errorText, seenText, shown } from "../text.ts";
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
  const { runs, length, seed, deadline, guards, coverage, isConcurrent } = context;
  let operations = await context.operations();
  const findings: Finding[] = [];
  const told = new Set<string>();
  while (operations.length > 0) {
    let met: { readonly finding: Finding; readonly steps: readonly Step[] } | undefined;
    const property = fc.asyncProperty(sequencesOf(operations, { length, isConcurrent }), (steps) =>
      lend(implementation, async (made) => {
        const before = shapeOf(made, context);
        const played = await play(made, steps, { deadline, guards });
        coverage.notePlayed(steps, played);
        const finding =
          (await playedFinding(steps, played, context)) ?? shapeFinding(before, shapeOf(made, context), told);
        if (finding) met = { finding, steps };
        return finding === undefined;
      }),
    );
    // What is found is told by the one call that it is about, so that nothing has to be shortened.
    const { failed } = await fc.check(property, { numRuns: runs, seed, endOnFailure: true });
    if (!failed || !met) return findings;
    const { finding } = met;
    findings.push(finding);
    told.add(finding.place);
    if (finding.name === "unsettled") context.endless.add(finding.place);
    operations = operations.filter(({ label }) => label !== finding.place);
  }
  return findings;
}

async function playedFinding<Target extends object>(
  steps: readonly Step[],
  played: Played,
  context: Context<Target>,
): Promise<Finding | undefined> {
  for (const [at, seen] of played.seen.entries()) {
    const step = steps[at] as Step;
    const finding = seenFinding(step, seen, context) ?? (await resultFinding(step, seen, context));
    if (finding) return { ...finding, code: codeOf([step], { ...played, seen: [seen], reused: new Map() }) };
  }
  // The reference says whether a call is meant to change its arguments.
  const at = context.contract.reference ? undefined : played.mutated[0];
  if (at === undefined) return undefined;
  return {
    name: "mutated",
    place: (steps[at] as Step).operation.label,
    expected: "the arguments as they were before the call",
    found: "an argument that was changed by it",
    remedy: "Work on a copy, or waive `mutated` with the reason if the target says so.",
    code: codeOf([steps[at] as Step], { ...played, seen: [], reused: new Map() }),
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

async function resultFinding<Target extends object>(
  { operation: { label, results, isTyped } }: Step,
  seen: Seen,
  { contract }: Context<Target>,
): Promise<Finding | undefined> {
  if (seen.status !== "returned" && seen.status !== "resolved") return undefined;
  const remedy = `Mend what ${label} gives back.`;
  if (isTyped && results.length > 0) {
    const reasons = results.map((schema) => {
      if ((schema.promise !== undefined) !== (seen.status === "resolved")) return "async";
      return seen.value === SELF ? undefined : unfit(seen.raw, schema.promise ?? schema);
    });
    if (!reasons.includes(undefined)) {
      const isLate = reasons.includes("async");
      const expected = isLate
        ? results[0]?.promise
          ? "a promise"
          : "an answer at once"
        : "a result as the surface tells it";
      const reason = reasons.find((each) => each !== "async");
      const found = isLate ? seenText(seen) : `${seenText(seen)}; ${reason}`;
      return { name: isLate ? "async" : "result", place: label, expected, found, remedy };
    }
  }
  const check = contract.results[label];
  const reason = check && (await resultReason(check, seen.raw));
  if (!reason) return undefined;
  return {
    name: "result",
    place: label,
    expected: "a result as the contract tells it",
    found: reason,
    remedy,
  };
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

/** The members of an object with their kinds, or all that it holds where it has no class. */
function shapeOf<Target extends object>(
  made: Target,
  { contract: { surface } }: Context<Target>,
): ReadonlyMap<PropertyKey, string> {
  const told = surface
    ? membersOf(surface, made).filter(({ key }) => key in made)
    : membersOf(undefined, made);
  const hasClass = Object.getPrototypeOf(made) !== Object.prototype;
  const kept = hasClass && !surface ? told.filter(({ kind }) => kind === "method") : told;
  const keys = hasClass
    ? kept.map(({ key }) => key)
    : [...kept.map(({ key }) => key), ...Reflect.ownKeys(made)];
  return new Map(
    keys.map((key) => [
      key,
      typeof safely(() => Reflect.get(made, key)) === "function" ? "method" : "property",
    ]),
  );
}

function safely(read: () => unknown): unknown {
  try {
    return read();
  } catch {
    return undefined;
  }
}

function shapeFinding(
  before: ReadonlyMap<PropertyKey, string>,
  after: ReadonlyMap<PropertyKey, string>,
  told: ReadonlySet<string>,
): Finding | undefined {
  const keys = new Set([...before.keys(), ...after.keys()]);
  for (const key of keys) {
    const [was, is] = [before.get(key), after.get(key)];
    if (was === is || told.has(String(key))) continue;
    return {
      name: "shape",
      place: String(key),
      expected: was ? `a ${was}, as before the calls` : "no such member, as before the calls",
      found: is ? `a ${is}` : "none",
      remedy: "Let an object have the same members all its life; whoever took one off keeps the old one.",
    };
  }
  return undefined;
}
