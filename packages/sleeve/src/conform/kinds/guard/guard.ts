import fc from "fast-check";
import { check } from "../../checks/contract-checks.ts";
import { equalityOf } from "../../compare.ts";
import type { Finding } from "../../finding.ts";
import { withImplementation } from "../../implementation.ts";
import { differenceOf } from "../../sequences/difference.ts";
import { macrotask, runSequence, type StepOutcome } from "../../sequences/sequence-run.ts";
import { asGenerated, type Step, sequencesOf } from "../../sequences/steps.ts";
import { stepsCode } from "../../sequences/steps-code.ts";
import type { Context, ContractCheck, Wrapper } from "../../types.ts";
import { errorText, formatValue } from "../../values/format.ts";
import { type SubjectOptions, shapeChecks, subjectWrapper } from "../decorator.ts";
import { forwardingFindings } from "../forwarding-law.ts";
import { overlapFindings } from "../overlap.ts";
import { probesOf, type Wrapping, withSpied } from "../probe.ts";
import { refusalFindings } from "./refusal-law.ts";

export interface GuardOfOptions<Target, Subject extends object> extends SubjectOptions<Target, Subject> {
  /** Calls that must be rejected, by name, besides the refusals of the contract. */
  readonly refuses?: Readonly<Record<string, (guarded: Target) => unknown>>;
}

/**
 * Declares an implementation to be a guard: it forwards calls as a decorator does, or rejects them. A
 * rejected call must fail, and must not reach the subject before or after it failed.
 */
export function guardOf<Target extends object, Subject extends object = Target>(
  options: GuardOfOptions<Target, Subject>,
): Wrapper<Target> {
  // A guard only needs its options, not the target's type.
  return subjectWrapper<Target, Subject>("guard", options, (wrapping, context) =>
    guardChecks(
      wrapping,
      context,
      (options.refuses ?? {}) as Readonly<Record<string, (guarded: object) => unknown>>,
    ),
  );
}

function guardChecks(
  wrapping: Wrapping,
  context: Context<object>,
  refuses: Readonly<Record<string, (guarded: object) => unknown>>,
): readonly ContractCheck[] {
  const { refusals } = context.contract;
  const calls = {
    ...refuses,
    ...Object.fromEntries(Object.entries(refusals).map(([name, { call }]) => [name, call])),
  };
  return [
    ...shapeChecks(wrapping, context),
    check("passes allowed calls unchanged, once", () => forwardingFindings(wrapping, context)),
    check("answers as its subject does where it passes a call", () => passingFindings(wrapping, context)),
    check("answers each call, whatever calls are in flight", async () =>
      overlapFindings(wrapping, await probesOf(wrapping, context), context),
    ),
    check("rejects without calling its subject", () => throughFindings(wrapping, context)),
    check("hides its subject", () => hiddenFindings(wrapping)),
    ...Object.entries(calls).map(([name, call]) =>
      check(`rejects ${name} without calling its subject`, async () => {
        const finding = await refusedFindings(wrapping, name, call);
        return finding.length > 0 ? finding : refusalFindings(wrapping, name, call, context);
      }),
    ),
  ];
}

function refusedFindings(
  wrapping: Wrapping,
  name: string,
  call: (guarded: object) => unknown,
): Promise<readonly Finding[]> {
  return withSpied(wrapping, async (wrapper, spy) => {
    let actual: string | undefined;
    try {
      actual = `the result ${formatValue(await call(wrapper))}`;
    } catch {
      actual = undefined;
    }
    await macrotask();
    const [reached] = spy.calls;
    if (actual !== undefined)
      return [
        {
          name: "refusal",
          place: name,
          expected: "the call to fail",
          found: actual,
          remedy: "Check before calling the subject.",
        },
      ];
    return reached ? [unguarded(name, String(reached.key ?? "the function"))] : [];
  });
}

/**
 * A generated call that fails with an error that is not the subject's was rejected, and must not have reached
 * it.
 */
async function throughFindings(wrapping: Wrapping, context: Context<object>): Promise<readonly Finding[]> {
  const operations = (await context.operations()).filter(({ use }) => use === "call");
  if (operations.length === 0) return [];
  const { runs, length, seed, timeout, guards } = context;
  let finding: Finding | undefined;
  const property = fc.asyncProperty(sequencesOf(operations, { length, isConcurrent: false }), (steps) =>
    withSpied(wrapping, async (wrapper, spy) => {
      const own = new Set<unknown>();
      spy.script = (_, real) => noted(real, own);
      for (const step of steps) {
        spy.calls.length = 0;
        const [outcome] = (await runSequence(wrapper, [step], { timeout, guards })).outcomes;
        if ((outcome?.status !== "threw" && outcome?.status !== "rejected") || own.has(outcome.raw)) continue;
        if (outcome.status === "rejected") await macrotask();
        if (!spy.calls.some(({ key }) => key === step.operation.key)) continue;
        finding = unguarded(stepText(step), `${step.operation.label}, and then ${errorText(outcome.raw)}`);
        return false;
      }
      return true;
    }),
  );
  await fc.check(property, { numRuns: runs, seed, endOnFailure: true });
  return finding ? [finding] : [];
}

/**
 * After any calls, what a guard passes is answered as by a subject that received the passed calls only. A guard that
 * answers from memory, or loses a call, is found by what it answers later.
 */
async function passingFindings(wrapping: Wrapping, context: Context<object>): Promise<readonly Finding[]> {
  const operations = await context.operations();
  if (operations.length === 0) return [];
  const { runs, length, seed, path } = context;
  const property = fc.asyncProperty(
    sequencesOf(operations, { length, isConcurrent: false }),
    async (steps) => (await passingDifference(wrapping, steps, context)) === undefined,
  );
  const details = await fc.check(property, { numRuns: runs, seed, ...(path !== undefined && { path }) });
  if (!details.failed) return [];
  const finding = (details.counterexample as [readonly Step[]])[0];
  const shown = await passingDifference(wrapping, finding, context);
  if (!shown) return [];
  const { name, at, expected, found: given, steps, played } = shown;
  return [
    {
      name,
      place: (steps[at] as Step).operation.label,
      expected: `as from its subject: ${expected}`,
      found: `after ${at === 0 ? "one call" : `${at + 1} calls`}: ${given}`,
      remedy: `Pass each allowed call on, and return its result. Reproduce with seed ${seed} and path "${details.counterexamplePath?.split(":")[0] ?? ""}".`,
      code: stepsCode(steps.slice(0, at + 1), played),
    },
  ];
}

/** Returns where a guard and its subject differ in the calls that the guard passes, unless the subject is not steady. */
async function passingDifference(
  wrapping: Wrapping,
  drafts: readonly Step[],
  { timeout, guards }: Context<object>,
) {
  const own = new Set<unknown>();
  const passedValues: Step[] = [];
  const outcomes: StepOutcome[] = [];
  await withSpied(wrapping, async (wrapper, spy) => {
    spy.script = (_, real) => noted(real, own);
    for (const draft of drafts) {
      const step = { ...draft, args: draft.args.map(asGenerated) };
      const [outcome] = (await runSequence(wrapper, [step], { timeout, guards })).outcomes;
      const hasFailed = outcome?.status === "threw" || outcome?.status === "rejected";
      if (!outcome || (hasFailed && !own.has(outcome.raw))) continue;
      passedValues.push(step);
      outcomes.push(outcome);
    }
  });
  const played = () =>
    withImplementation(wrapping.subject, (subject) =>
      runSequence(subject, passedValues, { timeout, guards }),
    );
  const expected = { ...(await played()), callbacks: [] };
  const finding = { ...expected, outcomes, mutated: expected.mutated };
  const equality = equalityOf({});
  const difference = differenceOf(passedValues, expected, finding, equality);
  if (!difference) return undefined;
  const again = { ...(await played()), callbacks: [] };
  return differenceOf(passedValues, expected, again, equality)
    ? undefined
    : { ...difference, steps: passedValues, played: expected };
}

function stepText({ operation: { label }, args }: Step): string {
  return args.length === 0 ? label : `${label}, called with ${formatValue(args)}`;
}

/** Records every error of the subject itself. */
function noted(real: () => unknown, errors: Set<unknown>): unknown {
  try {
    const result = real();
    if (result instanceof Promise) result.catch((error: unknown) => errors.add(error));
    return result;
  } catch (error) {
    errors.add(error);
    throw error;
  }
}

function hiddenFindings(wrapping: Wrapping): Promise<readonly Finding[]> {
  return withSpied(wrapping, async (wrapper, { subject }) => {
    if (!Object.prototype.isPrototypeOf.call(subject, wrapper)) return [];
    return [
      {
        name: "leak",
        place: "the prototype",
        expected: "no access to the subject except through the guard",
        found: "the subject as the prototype of the guard",
        remedy: "Hold the subject in a private field, and forward each member.",
      },
    ];
  });
}

function unguarded(place: string, reached: string): Finding {
  return {
    name: "unguarded",
    place,
    expected: "a rejection before the subject is called",
    found: `a call that reached the subject's ${reached}`,
    remedy: "Check first, await the check, and only then call the subject.",
  };
}
