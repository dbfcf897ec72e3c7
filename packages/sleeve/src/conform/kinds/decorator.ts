import { type Check, check } from "../check.ts";
import { memberFindings } from "../checks/surface.ts";
import { differenceOutcome } from "../compare.ts";
import type { Context } from "../context.ts";
import {
  type Factory,
  type Implementation,
  lend,
  untyped,
  type Waived,
  type Wrapper,
} from "../implementation.ts";
import { membersOf } from "../operations.ts";
import { around, changed } from "./around.ts";
import { orderFindings, sharedFindings } from "./order.ts";
import { passingFindings } from "./passing.ts";
import type { Wrapping } from "./trial.ts";

/** What a wrapper with the shape of its subject is made of. */
export interface SubjectOptions<Target, Subject extends object> {
  /** Makes a subject. It is called many times: each check wraps some of its own. */
  readonly subject: Factory<Subject> | Implementation<Subject>;
  /** Wraps one. */
  readonly wrap: (subject: Subject) => Target | Promise<Target>;
  /** Lets go of the wrapper; the subject is let go of by its own `release`, and only after that. */
  readonly release?: (wrapper: Target) => unknown;
  readonly waives?: Waived;
}

/**
 * An implementation that is a decorator. It has to show all members of its subject, answer as that does, pass arguments,
 * results and errors on by identity, call through once and in time, give itself back where its subject does, and leak it
 * nowhere.
 *
 * @example
 * import { decorate, timing } from "sleeve";
 * import { checkContract, conformanceText, contract, decoratorOf } from "sleeve/conform";
 *
 * class Tank { #litres = 0; fill(litres: number) { return (this.#litres += litres); } }
 *
 * const report = await checkContract(contract<Tank>("Tank"), {
 *   "the timed tank": decoratorOf({
 *     subject: () => new Tank(),
 *     wrap: (tank) => decorate(tank, timing({ to: () => {} })),
 *   }),
 * });
 * console.log(conformanceText(report));
 */
export function decoratorOf<Target extends object, Subject extends object = Target>(
  options: SubjectOptions<Target, Subject>,
): Wrapper<Target> {
  return subjectWrapper("decorator", options, passingChecks);
}

/**
 * An implementation that is a proxy: in its subject's shape, and in its place. It has the laws of a decorator. One that makes
 * its subject late, or refuses some calls, is one of these too.
 */
export function proxyOf<Target extends object, Subject extends object = Target>(
  options: SubjectOptions<Target, Subject>,
): Wrapper<Target> {
  return subjectWrapper("proxy", options, passingChecks);
}

/** Makes a wrapper with the shape of its subject, of whichever kind. */
export function subjectWrapper<Target extends object, Subject extends object>(
  kind: Wrapper<Target>["kind"],
  options: SubjectOptions<Target, Subject>,
  checks: (wrapping: Wrapping, context: Context<object>) => readonly Check[],
): Wrapper<Target> {
  const { wrap, release } = options;
  const subject = untyped(options.subject);
  const wrapping: Wrapping = {
    subject,
    wrap: wrap as Wrapping["wrap"],
    release: release as Wrapping["release"],
  };
  return {
    ...around(subject, options),
    kind,
    subject,
    checks: (context) => checks(wrapping, context),
    altered: (change) =>
      subjectWrapper<Target, Subject>(kind, { ...options, wrap: changed(wrap, change) }, checks),
  };
}

function passingChecks(wrapping: Wrapping, context: Context<object>): readonly Check[] {
  return [
    ...shapeChecks(wrapping, context),
    check("answers as its subject does", () => answerOutcome(wrapping, context)),
    check("passes arguments, results and errors on as they are, once", () =>
      passingFindings(wrapping, context),
    ),
    check("keeps the order in time of calls and answers", () => orderFindings(wrapping, context)),
  ];
}

/** Where a wrapper answers otherwise than its subject. */
export async function answerOutcome({ subject }: Wrapping, context: Context<object>) {
  const operations = await context.operations();
  return differenceOutcome(
    { reference: subject, named: "its subject" },
    context.implementation,
    operations,
    context,
  );
}

/** What everything in the shape of its subject has to be like. */
export function shapeChecks(wrapping: Wrapping, context: Context<object>): readonly Check[] {
  return [
    check("shows every member of its subject", () =>
      lend(wrapping.subject, async (subject) => {
        const wrapper = await wrapping.wrap(subject);
        const findings = memberFindings(
          wrapper,
          membersOf(context.contract.surface, subject),
          typeof subject === "function",
        );
        await wrapping.release?.(wrapper);
        return findings;
      }),
    ),
    check("keeps to its own subject", () => sharedFindings(wrapping, context)),
  ];
}
