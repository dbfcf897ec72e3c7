import { SleeveError } from "../../shared/errors.ts";
import { differenceOutcome } from "../compare.ts";
import { contextOf } from "../context.ts";
import type { Coverage } from "../coverage.ts";
import { stallsSoFar } from "../execution/stalls.ts";
import { captureUncaught } from "../execution/uncaught-errors.ts";
import { FINDINGS, type Finding } from "../finding.ts";
import { implementationOf, isWrapper, untyped, withImplementation } from "../implementation.ts";
import type {
  CheckOptions,
  CheckResult,
  Context,
  Contract,
  ContractCheck,
  Implementation,
  ImplementationInput,
  Outcome,
  Suppressions,
} from "../types.ts";
import { badContract } from "../values/arbitraries.ts";
import { errorText } from "../values/format.ts";
import { behaviourFindings } from "./behaviour.ts";
import { exampleFindings, refusalFindings, watchingErrors } from "./examples.ts";
import { scenarioOutcome } from "./scenarios.ts";
import { surfaceFindings } from "./surface-members.ts";

/**
 * Returns the checks of a contract for one implementation: surface, examples, laws, refusals, generated
 * calls, comparison with the reference, and the laws of its kind of wrapper.
 */
export function checksOf<Target extends object>(
  contract: Contract<Target>,
  input: ImplementationInput<Target>,
  options: CheckOptions & { readonly coverage?: Coverage } = {},
): readonly ContractCheck[] {
  const implementation = implementationOf(input);
  requireFindingNames(implementation.suppressions);
  const context = contextOf(contract, implementation, options, options.coverage);
  const own = [...contractChecks(context)];
  const ofKind = isWrapper(implementation)
    ? // The laws of a kind do not depend on the target's type.
      implementation.checks(context as unknown as Context<object>)
    : [];
  return [...own, ...ofKind].map(({ name, run }) => ({
    name,
    run: async () => applySuppressions(await run(), implementation.suppressions),
  }));
}

function requireFindingNames(suppressions: Suppressions = {}): void {
  const unknown = Object.keys(suppressions).find((name) => !Object.hasOwn(FINDINGS, name));
  if (unknown !== undefined)
    throw badContract(
      `\`suppressions\` names ${unknown}, which is no finding. Name one of ${Object.keys(FINDINGS).join(", ")}.`,
    );
}

/** How often a check runs, at most, if the machine stalls. */
const MOST_ATTEMPTS = 3;

/** A check without suppressions applied. It runs again if it has findings and the machine stalled meanwhile. */
export function check(name: string, run: () => Promise<Outcome>): ContractCheck {
  return {
    name,
    run: async () => {
      for (let attempt = 1; ; attempt++) {
        const stalls = stallsSoFar();
        const result = await resultOf(name, run);
        const isClear = result.findings.length === 0 || stallsSoFar() === stalls;
        if (isClear || attempt === MOST_ATTEMPTS) return result;
      }
    },
  };
}

async function resultOf(name: string, run: () => Promise<Outcome>): Promise<CheckResult> {
  try {
    const { result, uncaught } = await captureUncaught(run);
    const { findings, notes } = "findings" in result ? result : { findings: result, notes: [] };
    return {
      findings: [...findings, ...uncaught.slice(0, 1).map(uncaughtErrorFinding)],
      suppressed: [],
      notes,
    };
  } catch (error) {
    // A wrong contract says nothing about an implementation, and all its checks would repeat it.
    if (error instanceof SleeveError && error.code === "BAD_CONTRACT") throw error;
    return { findings: [setupFinding(name, error)], suppressed: [], notes: [] };
  }
}

/** Returns the checks of the contract itself, without the laws of a kind. */
export function contractChecks<Target extends object>(context: Context<Target>): readonly ContractCheck[] {
  const { contract, implementation, coverage } = context;
  const { examples, laws, refusals, scenarios, equal, generated } = contract;
  const reference = contract.reference && implementationOf(contract.reference);
  const counted = altered(implementation, (instance) => coverage.of(instance));
  // A stub answers only the calls that were recorded.
  const isRecorded = isWrapper(implementation) && implementation.kind === "stub";
  return [
    check("has every member of its surface", () =>
      withImplementation(implementation, (instance) => surfaceFindings(instance, context)),
    ),
    ...Object.entries(examples).map(([name, example]) =>
      watched(context, name, (one) =>
        withImplementation(one, (instance) => exampleFindings(name, example, instance, context.timeout)),
      ),
    ),
    ...Object.entries(scenarios).map(([name, scenario]) =>
      check(name, () =>
        scenarioOutcome(name, scenario, counted, reference, { equal, timeout: context.timeout }),
      ),
    ),
    ...Object.entries(laws).map(([name, law]) =>
      watched(context, name, (one) => law.findings(name, one, context as unknown as Context<object>)),
    ),
    ...Object.entries(refusals).map(([name, refusal]) =>
      watched(context, `refuses ${name}`, (one) =>
        withImplementation(one, (instance) => {
          coverage.noteRefusal(name);
          return refusalFindings(name, refusal, instance, context.timeout);
        }),
      ),
    ),
    ...(isRecorded || generated?.length === 0
      ? []
      : [
          check("ends every call, and leaves its arguments and itself unchanged", async () => {
            const { length } = await context.operations();
            const notes = length > 0 ? [] : ["No member to call or read, so nothing was tried."];
            return { findings: await behaviourFindings(implementation, context), notes };
          }),
        ]),
    ...(reference && !isRecorded && generated?.length !== 0 ? [referenceCheck(context, reference)] : []),
  ];
}

/** Returns an implementation of which clients see a changed object; the original is released. */
function altered<Target extends object>(
  implementation: Implementation<Target>,
  change: (instance: Target) => Target,
): Implementation<Target> {
  const originals = new WeakMap<Target, Target>();
  return {
    ...implementation,
    create: async () => {
      const instance = await implementation.create();
      const changed = change(instance);
      originals.set(changed, instance);
      return changed;
    },
    release: (instance) => implementation.release?.(originals.get(instance) ?? instance),
  };
}

/**
 * Returns a check that counts the use of the implementation, and reports an uncaught error as its finding.
 */
function watched<Target extends object>(
  { contract: { errors }, implementation, coverage }: Context<Target>,
  name: string,
  run: (implementation: Implementation<Target>) => Promise<readonly Finding[]>,
): ContractCheck {
  return check(name, async () => {
    const escaped: Finding[] = [];
    const finding = await run(
      altered(implementation, (instance) => {
        const counted = coverage.of(instance);
        return errors ? watchingErrors(counted, errors, escaped) : counted;
      }),
    );
    // An uncaught error is the cause of the failure, so it replaces the check's own finding.
    return escaped.length > 0 ? escaped : finding;
  });
}

function referenceCheck<Target extends object>(
  context: Context<Target>,
  reference: Implementation<Target>,
): ContractCheck {
  return check("answers as the reference does", async () =>
    differenceOutcome(
      { reference: untyped(reference), named: "the reference" },
      untyped(context.implementation),
      await context.operations(),
      context,
      { equal: context.contract.equal, errors: "class" },
    ),
  );
}

function applySuppressions({ findings, notes }: CheckResult, suppressions: Suppressions = {}): CheckResult {
  const suppressed = findings.flatMap((finding) => {
    const reason = suppressions[finding.name];
    return reason === undefined ? [] : [{ finding, reason }];
  });
  return { findings: findings.filter(({ name }) => suppressions[name] === undefined), suppressed, notes };
}

function uncaughtErrorFinding(error: unknown): Finding {
  return {
    name: "escaped",
    place: "no call",
    expected: "every error to reach the caller",
    found: `an uncaught error: ${errorText(error)}`,
    remedy: "Await deferred work, and return its promise to the caller.",
  };
}

function setupFinding(name: string, error: unknown): Finding {
  return {
    name: "setup",
    place: name,
    expected: "an implementation that can be created, used and released",
    found: errorText(error),
    remedy: "Correct the function that creates or releases it.",
  };
}
