import { describe } from "../../forward/subject.ts";
import { reflect } from "../../surface/reflect.ts";
import { type Check, check } from "../check.ts";
import { isAllowed } from "../checks/terms.ts";
import type { Context } from "../context.ts";
import type { Finding } from "../finding.ts";
import { type Factory, type Implementation, untyped, type Waived, type Wrapper } from "../implementation.ts";
import type { Seen } from "../play.ts";
import { peek } from "../schema.ts";
import { errorText, seenText } from "../text.ts";
import { around, changed } from "./around.ts";
import { Habits } from "./habits.ts";
import { Outside } from "./outside.ts";
import { releaseFindings } from "./release.ts";
import { callOf, type Trial, trialsOf, type Wrapping, withSpied } from "./trial.ts";

export interface AdapterOfOptions<Target, Adaptee extends object> {
  /** Makes an adaptee, or a small stand-in for one. It is called many times. */
  readonly adaptee: Factory<Adaptee> | Implementation<Adaptee>;
  readonly wrap: (adaptee: Adaptee) => Target | Promise<Target>;
  readonly release?: (wrapper: Target) => unknown;
  /** Whether the adapter is the one to release its adaptee. Where nothing is said, it may do so once at most. */
  readonly owns?: boolean;
  /** How each of the two is released, where its name does not tell: `close`, `shutdown`, `Symbol.dispose` and the like do. */
  readonly releasedBy?: { readonly target?: keyof Target; readonly adaptee?: keyof Adaptee };
  readonly waives?: Waived;
}

/**
 * An implementation that is an adapter. It has to cover its target, let no error and no object of the outside out, fail where
 * the adaptee fails, and release what it owns exactly once.
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
 *   "the sounder": adapterOf({ adaptee: () => new Sounder(), wrap: (sounder: Sounder) => depthsOf(sounder) }),
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
    ...around(adaptee, options),
    kind: "adapter",
    checks: (context) => adapterChecks(wrapping, context, options),
    altered: (change) => adapterOf<Target, Adaptee>({ ...options, wrap: changed(wrap, change) }),
  };
}

function adapterChecks<Target extends object, Adaptee extends object>(
  wrapping: Wrapping,
  context: Context<object>,
  { owns, releasedBy }: AdapterOfOptions<Target, Adaptee>,
): readonly Check[] {
  const trials = () => trialsOf({ ...wrapping, subject: untyped(context.implementation) }, context);
  return [
    check("lets no outside object out", async () => outsideFindings(wrapping, await trials(), context)),
    check("lets no outside error out, and hides none", async () =>
      failureFindings(wrapping, await trials(), context),
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

/** Whether what the adaptee gives, or fails with, comes out as it is. */
async function outsideFindings(
  wrapping: Wrapping,
  trials: readonly Trial[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  const findings = new Map<string, Finding>();
  const habits = new Habits();
  for (const { operation, args } of trials) {
    await withSpied(wrapping, async (wrapper, spy) => {
      const outside = new Outside(spy.subject, habits);
      spy.script = outside.noting;
      const passed: unknown[] = [];
      const given = args.map((each) => (typeof each === "function" ? taking(passed) : each));
      const outcome = await callOf(wrapper, operation, given, context).outcome;
      const finding =
        leakFinding(operation.label, outside, [outcome.raw, ...passed]) ??
        escapeFinding(operation.label, outside, outcome, context);
      if (finding) findings.set(`${finding.name} ${operation.label}`, finding);
    });
  }
  await withSpied(wrapping, async (wrapper, spy) => {
    const outside = new Outside(spy.subject, habits);
    for (const { key, label, kind } of reflect(wrapper)) {
      if (kind === "method" || !isOfTarget(key, context)) continue;
      const finding = leakFinding(label, outside, [peek(wrapper, key)]);
      if (finding) findings.set(`leak ${label}`, finding);
    }
  });
  return [...findings.values()];
}

/** What a class holds besides, in fields that only its types keep private, is nobody's business. */
function isOfTarget(key: PropertyKey, { contract: { surface } }: Context<object>): boolean {
  const members = (surface as { members?: object } | undefined)?.members ?? surface;
  return members !== undefined && key in members;
}

function taking(passed: unknown[]): (...given: unknown[]) => unknown {
  return (...given) => {
    passed.push(...given);
    return given[0];
  };
}

function leakFinding(place: string, outside: Outside, values: readonly unknown[]): Finding | undefined {
  const found = values.map((each) => outside.foundIn(each)).find((each) => each !== undefined);
  return (
    found && {
      name: "leak",
      place,
      expected: "nothing of the outside in what the adapter gives",
      found: `${describe(found)} of the outside`,
      remedy: "Make an object of the target's own from it.",
    }
  );
}

function escapeFinding(
  place: string,
  outside: Outside,
  { status, raw }: Seen,
  { contract: { errors } }: Context<object>,
): Finding | undefined {
  if (status !== "threw" && status !== "rejected") return undefined;
  if (!outside.errors.has(raw) || isAllowed(raw, errors ?? [])) return undefined;
  return {
    name: "escaped",
    place,
    expected: "an error of the target's own, with the outside one as its cause",
    found: `the outside's ${errorText(raw)}`,
    remedy: "Translate it in the adapter, or list its class in the contract's errors.",
  };
}

class OutsideFailure extends Error {}

/** Whether a failure of the adaptee comes out as one of the target's own. */
async function failureFindings(
  wrapping: Wrapping,
  trials: readonly Trial[],
  context: Context<object>,
): Promise<readonly Finding[]> {
  const findings = new Map<string, Finding>();
  const habits = new Habits();
  for (const { operation, args, hint } of trials) {
    const place = operation.label;
    await withSpied(wrapping, async (wrapper, spy) => {
      spy.script = (call, real) => habits.watching(call, real);
      await callOf(wrapper, operation, args, context).outcome;
    });
    for (const error of [new OutsideFailure("the outside failed"), "E_OUTSIDE"]) {
      await withSpied(wrapping, async (wrapper, spy) => {
        const outside = new Outside(spy.subject, habits);
        outside.errors.add(error);
        let isDelivered = false;
        spy.script = (call, real) =>
          habits.failing(error, call, real, () => {
            isDelivered = true;
          });
        const outcome = await callOf(wrapper, operation, args, context).outcome;
        if (!isDelivered) return;
        const escaped = escapeFinding(place, outside, outcome, context);
        const swallowed = escaped ? undefined : swallowedFinding(place, outcome, hint);
        const finding = escaped ?? swallowed;
        if (finding && !findings.has(`${finding.name} ${place}`))
          findings.set(`${finding.name} ${place}`, finding);
      });
    }
  }
  return [...findings.values()];
}

/** A call that gives nothing back, as one that closes, may have reason to go on; one that has to answer may not. */
function swallowedFinding(place: string, outcome: Seen, hint: Seen): Finding | undefined {
  if (outcome.status === "unsettled")
    return {
      name: "unsettled",
      place,
      expected: "a failure, where the adaptee fails",
      found: "no end within the deadline",
      remedy: "Listen to what the adaptee fails with, and reject.",
    };
  const isAnswer = (seen: Seen) =>
    (seen.status === "returned" || seen.status === "resolved") && seen.raw !== undefined;
  if (!isAnswer(hint) || (outcome.status !== "returned" && outcome.status !== "resolved")) return undefined;
  return {
    name: "error",
    place,
    expected: "a failure, where the adaptee fails",
    found: seenText(outcome),
    remedy: "Let the failure out as an error of the target's own. An answer in its place is taken for true.",
  };
}
