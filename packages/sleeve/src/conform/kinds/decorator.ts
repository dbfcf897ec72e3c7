import { check } from "../checks/contract-checks.ts";
import { memberFindings } from "../checks/surface-members.ts";
import { differenceOutcome } from "../compare.ts";
import { untyped, withImplementation } from "../implementation.ts";
import { membersOf } from "../sequences/operations.ts";
import type { Context, ContractCheck, Factory, Implementation, Suppressions, Wrapper } from "../types.ts";
import { forwardingFindings } from "./forwarding-law.ts";
import { orderFindings, sharedFindings } from "./order.ts";
import type { Wrapping } from "./probe.ts";
import { changed, wrapInput } from "./wrap-input.ts";

/** How a wrapper with the shape of its subject is created. */
export interface SubjectOptions<Target, Subject extends object> {
  /** Creates a subject. It is called many times: each check wraps its own. */
  readonly subject: Factory<Subject> | Implementation<Subject>;
  /** Wraps a subject. */
  readonly wrap: (subject: Subject) => Target | Promise<Target>;
  /** Releases the wrapper. The subject is released by its own `release` afterwards. */
  readonly release?: (wrapper: Target) => unknown;
  readonly suppressions?: Suppressions;
}

/**
 * Declares an implementation to be a decorator. It must have all members of its subject, return equal
 * results, pass arguments, results and errors by identity, call its subject once and in order, return itself
 * where its subject does, and never expose it.
 *
 * @example
 * import { decorate, timing } from "sleeve";
 * import { checkContract, conformanceText, contract, decoratorOf } from "sleeve/conform";
 *
 * class Tank { #litres = 0; fill(litres: number) { return (this.#litres += litres); } }
 *
 * const report = await checkContract(contract<Tank>("Tank"), {
 *   "timed tank": decoratorOf({
 *     subject: () => new Tank(),
 *     wrap: (tank) => decorate(tank, timing({ onSample: () => {} })),
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
 * Declares an implementation to be a proxy: it has the shape of its subject and is held to the laws of a
 * decorator. Use it for wrappers that create their subject late or reject some calls.
 */
export function proxyOf<Target extends object, Subject extends object = Target>(
  options: SubjectOptions<Target, Subject>,
): Wrapper<Target> {
  return subjectWrapper("proxy", options, passingChecks);
}

/** Creates a wrapper implementation with the shape of its subject, for any kind. */
export function subjectWrapper<Target extends object, Subject extends object>(
  kind: Wrapper<Target>["kind"],
  options: SubjectOptions<Target, Subject>,
  checks: (wrapping: Wrapping, context: Context<object>) => readonly ContractCheck[],
): Wrapper<Target> {
  const { wrap, release } = options;
  const subject = untyped(options.subject);
  const wrapping: Wrapping = {
    subject,
    wrap: wrap as Wrapping["wrap"],
    release: release as Wrapping["release"],
  };
  return {
    ...wrapInput(subject, options),
    kind,
    sample: subject,
    checks: (context) => checks(wrapping, context),
    altered: (change) =>
      subjectWrapper<Target, Subject>(kind, { ...options, wrap: changed(wrap, change) }, checks),
  };
}

function passingChecks(wrapping: Wrapping, context: Context<object>): readonly ContractCheck[] {
  return [
    ...shapeChecks(wrapping, context),
    check("answers as its subject does", () => answerOutcome(wrapping, context, true)),
    check("passes arguments, results and errors unchanged, once", () =>
      forwardingFindings(wrapping, context),
    ),
    check("keeps the order of calls and results", () => orderFindings(wrapping, context)),
  ];
}

/** Compares the wrapper's results with its subject's, and with `byIdentity` also whether they are the same objects. */
export async function answerOutcome({ subject }: Wrapping, context: Context<object>, byIdentity = false) {
  const operations = await context.operations();
  return differenceOutcome(
    { reference: subject, named: "its subject" },
    context.implementation,
    operations,
    context,
    {},
    byIdentity,
  );
}

/** Returns the checks of every wrapper with the shape of its subject. */
export function shapeChecks(wrapping: Wrapping, context: Context<object>): readonly ContractCheck[] {
  return [
    check("has every member of its subject", () =>
      withImplementation(wrapping.subject, async (subject) => {
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
