import { describe } from "../../../forward/subject.ts";
import { reflect } from "../../../surface/reflect.ts";
import { check } from "../../checks/contract-checks.ts";
import { escapedFinding, isAllowed } from "../../checks/examples.ts";
import type { Finding } from "../../finding.ts";
import { untyped } from "../../implementation.ts";
import type { StepOutcome } from "../../sequences/sequence-run.ts";
import type { Context, ContractCheck, Factory, Implementation, Suppressions, Wrapper } from "../../types.ts";
import { errorText, outcomeText } from "../../values/format.ts";
import { safeGet } from "../../values/schema.ts";
import { CallbackConventions } from "../callback-conventions.ts";
import { overlapFindings } from "../overlap.ts";
import { callOf, type Probe, probesOf, type Wrapping, withSpied } from "../probe.ts";
import { changed, wrapInput } from "../wrap-input.ts";
import { independentArguments } from "./argument-laws.ts";
import { LeakTracker } from "./leak-tracker.ts";
import { emptyMembers, failingNotes } from "./member-laws.ts";
import { releaseFindings } from "./release.ts";
import { droppedResults, independentResults } from "./result-laws.ts";
import { sequenceFindings } from "./sequence-laws.ts";

export interface AdapterOfOptions<Target, Adaptee extends object> {
  /** Creates an adaptee, or a small fake of one. It is called many times. */
  readonly adaptee: Factory<Adaptee> | Implementation<Adaptee>;
  readonly wrap: (adaptee: Adaptee) => Target | Promise<Target>;
  readonly release?: (wrapper: Target) => unknown;
  /** Whether the adapter must release its adaptee. Default: it may, at most once. */
  readonly owns?: boolean;
  /**
   * Names of the members that release each of the two. Default: `close`, `shutdown`, `Symbol.dispose` and
   * similar.
   */
  readonly releasedBy?: { readonly target?: keyof Target; readonly adaptee?: keyof Adaptee };
  readonly suppressions?: Suppressions;
}

/**
 * Declares an implementation to be an adapter. It must cover its target, expose no error and no object of the
 * outside, fail when the adaptee fails, and release what it owns exactly once.
 *
 * @example
 * import { adapter } from "sleeve";
 * import { adapterOf, checkContract, contract } from "sleeve/conform";
 *
 * interface Depths { metresAt(berth: number): number }
 * declare class Sounder { feet(berth: number): number; shutdown(): void }
 * class NoDepth extends Error {}
 * const depthsOf = adapter<Depths, Sounder>(
 *   { metresAt: (sounder, berth) => sounder.feet(berth) * 0.3048 },
 *   { errors: (cause) => new NoDepth("no depth", { cause }) },
 * );
 *
 * const depths = contract<Depths>("Depths", { surface: { metresAt: "method" }, errors: [NoDepth] });
 * await checkContract(depths, {
 *   sounder: adapterOf({ adaptee: () => new Sounder(), wrap: (sounder: Sounder) => depthsOf(sounder) }),
 * });
 */
export function adapterOf<Target extends object, Adaptee extends object>(
  options: AdapterOfOptions<Target, Adaptee>,
): Wrapper<Target> {
  const { wrap, release } = options;
  const adaptee = untyped(options.adaptee);
  const wrapping: Wrapping = {
    subject: adaptee,
    wrap: wrap as Wrapping["wrap"],
    release: release as Wrapping["release"],
  };
  return {
    ...wrapInput(adaptee, options),
    kind: "adapter",
    checks: (context) => adapterChecks(wrapping, context, options),
    altered: (change) => adapterOf<Target, Adaptee>({ ...options, wrap: changed(wrap, change) }),
  };
}

function adapterChecks<Target extends object, Adaptee extends object>(
  wrapping: Wrapping,
  context: Context<object>,
  { owns, releasedBy }: AdapterOfOptions<Target, Adaptee>,
): readonly ContractCheck[] {
  const probes = () => probesOf({ ...wrapping, subject: untyped(context.implementation) }, context);
  return [
    check("exposes no outside object", async () => outsideFindings(wrapping, await probes(), context)),
    check("exposes no outside error, and swallows none", async () =>
      failureFindings(wrapping, await probes(), context),
    ),
    check("returns what depends on its adaptee", async () => {
      const instance = await probes();
      const findings = [
        ...(await emptyMembers(wrapping, instance, context)),
        ...(await independentResults(wrapping, instance, context)),
        ...(await droppedResults(wrapping, instance, context)),
      ];
      return { findings, notes: await failingNotes(wrapping, instance, context) };
    }),
    check("passes on what its arguments mean", async () =>
      independentArguments(wrapping, await probes(), context),
    ),
    check("answers each call, whatever calls come before it", () => sequenceFindings(wrapping, context)),
    check("answers each call, whatever calls are in flight", async () =>
      overlapFindings(wrapping, await probes(), context),
    ),
    check("releases what it owns exactly once", () =>
      releaseFindings(wrapping, context, {
        owns,
        target: releasedBy?.target,
        adaptee: releasedBy?.adaptee,
      }),
    ),
  ];
}

/** Checks whether results or errors of the adaptee come out unchanged. */
async function outsideFindings(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  const findings = new Map<string, Finding>();
  const conventions = new CallbackConventions();
  for (const { operation, args } of probes) {
    await withSpied(wrapping, async (wrapper, spy) => {
      const outside = new LeakTracker(spy.subject, conventions);
      spy.script = outside.noting;
      const passedValues: unknown[] = [];
      const input = args.map((argument) =>
        typeof argument === "function" ? taking(passedValues) : argument,
      );
      const outcome = await callOf(wrapper, operation, input, context).outcome;
      const finding =
        leakFinding(operation.label, outside, [outcome.raw, ...passedValues]) ??
        escapeFinding(operation.label, outside, outcome, context);
      if (finding) findings.set(`${finding.name} ${operation.label}`, finding);
    });
  }
  await withSpied(wrapping, async (wrapper, spy) => {
    const outside = new LeakTracker(spy.subject, conventions);
    for (const { key, label, kind } of reflect(wrapper)) {
      if (kind === "method" || !isOfTarget(key, context)) continue;
      const finding = leakFinding(label, outside, [safeGet(wrapper, key)]);
      if (finding) findings.set(`leak ${label}`, finding);
    }
  });
  return [...findings.values()];
}

/** Fields that a class keeps private only by type are internal. */
function isOfTarget(key: PropertyKey, { contract: { surface } }: Context<object>): boolean {
  const members = (surface as { members?: object } | undefined)?.members ?? surface;
  return members !== undefined && key in members;
}

function taking(passedValues: unknown[]): (...given: unknown[]) => unknown {
  return (...args) => {
    passedValues.push(...args);
    return args[0];
  };
}

function leakFinding(place: string, outside: LeakTracker, values: readonly unknown[]): Finding | undefined {
  const finding = values.map((value) => outside.foundIn(value)).find((item) => item !== undefined);
  return (
    finding && {
      name: "leak",
      place,
      expected: "no outside object in the adapter's results",
      found: `${describe(finding)} of the outside`,
      remedy: "Convert it to an object of the target's own.",
    }
  );
}

function escapeFinding(
  place: string,
  outside: LeakTracker,
  { status, raw }: StepOutcome,
  { contract: { errors } }: Context<object>,
): Finding | undefined {
  if (status !== "threw" && status !== "rejected") return undefined;
  if (!outside.errors.has(raw) || isAllowed(raw, errors ?? [])) return undefined;
  return {
    name: "escaped",
    place,
    expected: "an error of the target's own, with the outside one as its cause",
    found: `the outside error ${errorText(raw)}`,
    remedy: "Translate it in the adapter, or list its class in the contract's errors.",
  };
}

class OutsideFailure extends Error {}

/** A failure of the adaptee must come out as one of the errors that the contract names. */
function undeclaredFinding(
  place: string,
  { status, raw }: StepOutcome,
  { contract: { errors } }: Context<object>,
): Finding | undefined {
  if ((status !== "threw" && status !== "rejected") || !errors || isAllowed(raw, errors)) return undefined;
  return escapedFinding(place, errorText(raw), errors);
}

/** A member that returns a result synchronously fails synchronously. */
function rejectedFinding(place: string, outcome: StepOutcome, hint: StepOutcome): Finding | undefined {
  if (hint.status !== "returned" || hint.raw === undefined || outcome.status !== "rejected") return undefined;
  return {
    name: "async",
    place,
    expected: "an error thrown synchronously, as results are returned",
    found: outcomeText(outcome),
    remedy: "Throw the error, or return a promise in both cases.",
  };
}

/** Checks whether a failure of the adaptee comes out as an error of the target's own. */
async function failureFindings(
  wrapping: Wrapping,
  probes: readonly Probe[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  const findings = new Map<string, Finding>();
  const conventions = new CallbackConventions();
  for (const { operation, args, hint } of probes) {
    const place = operation.label;
    await withSpied(wrapping, async (wrapper, spy) => {
      spy.script = (call, real) => conventions.watching(call, real);
      await callOf(wrapper, operation, args, context).outcome;
    });
    for (const error of [new OutsideFailure("the outside failed"), "E_OUTSIDE"]) {
      await withSpied(wrapping, async (wrapper, spy) => {
        const outside = new LeakTracker(spy.subject, conventions);
        outside.errors.add(error);
        let isDelivered = false;
        spy.script = (call, real) =>
          conventions.failing(error, call, real, () => {
            isDelivered = true;
          });
        const outcome = await callOf(wrapper, operation, args, context).outcome;
        if (!isDelivered) return;
        const finding =
          escapeFinding(place, outside, outcome, context) ??
          undeclaredFinding(place, outcome, context) ??
          rejectedFinding(place, outcome, hint) ??
          swallowedFinding(place, outcome, hint);
        if (finding && !findings.has(`${finding.name} ${place}`))
          findings.set(`${finding.name} ${place}`, finding);
      });
    }
  }
  return [...findings.values()];
}

/** A call without a result, such as a release, may continue after a failure; one with a result may not. */
function swallowedFinding(place: string, outcome: StepOutcome, hint: StepOutcome): Finding | undefined {
  if (outcome.status === "unsettled")
    return {
      name: "unsettled",
      place,
      expected: "a failure if the adaptee fails",
      found: "no end within the timeout",
      remedy: "Handle the adaptee's failure, and reject.",
    };
  const isAnswer = (outcome: StepOutcome) =>
    (outcome.status === "returned" || outcome.status === "resolved") && outcome.raw !== undefined;
  if (!isAnswer(hint) || (outcome.status !== "returned" && outcome.status !== "resolved")) return undefined;
  return {
    name: "error",
    place,
    expected: "a failure if the adaptee fails",
    found: outcomeText(outcome),
    remedy: "Throw an error of the target's own instead of returning a result.",
  };
}
