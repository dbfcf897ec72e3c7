import fc from "fast-check";
import { checksOf } from "../checks/contract-checks.ts";
import { equalityOf } from "../compare.ts";
import { contextOf } from "../context.ts";
import { captureUncaught } from "../execution/uncaught-errors.ts";
import type { FindingName } from "../finding.ts";
import { implementationOf, isWrapper, untyped, withImplementation } from "../implementation.ts";
import { membersOf, type Operation } from "../sequences/operations.ts";
import { searchDifference } from "../sequences/search.ts";
import { runSequence, SELF } from "../sequences/sequence-run.ts";
import { asGenerated, sequencesOf } from "../sequences/steps.ts";
import type { CheckOptions, Contract, Implementation, ImplementationInput } from "../types.ts";
import { CallbackValue } from "../values/arbitraries.ts";
import { applyFault } from "./apply-fault.ts";
import { FAULTS } from "./catalogue.ts";
import { type Fault, type KnownCalls, SELF_ANSWER } from "./fault.ts";

/** How many injected faults a contract's suite detects. */
export interface FaultReport {
  readonly contract: string;
  readonly implementation: string;
  readonly seed: number;
  readonly faults: readonly InjectedFault[];
  readonly detected: number;
  readonly missed: number;
  /** Number of faults that changed nothing a client can observe. They do not count. */
  readonly unobservable: number;
  /** Checks that fail without any fault. */
  readonly failing: readonly string[];
}

export interface InjectedFault {
  readonly fault: string;
  readonly member: string;
  readonly isDetected: boolean;
  /** The check that detected the fault, and its finding. */
  readonly by: string | undefined;
  readonly finding: FindingName | undefined;
  /** The shortest sequence of calls that shows the fault, as code for an example. */
  readonly example: string;
}

/** The suite runs once per fault, so the defaults are smaller: `runs` 50, `length` 12, `timeout` 200 ms. */
export interface InjectOptions extends CheckOptions {
  /** Name of the wrapper in the report. Default: `the implementation`. */
  readonly name?: string;
  /** Called after each fault, for progress. */
  readonly onFault?: (fault: InjectedFault) => void;
}

/**
 * Injects known faults into a wrapper, one at a time, runs the contract's suite on it, and reports which
 * faults the suite misses, each with an example that would detect it.
 *
 * Only faults that a client can observe count: for each one, a sequence of calls is searched that gives
 * another result with the fault than without. If the contract has no surface, the members of the given wrapper are
 * the surface.
 *
 * @example
 * import { contract, faultsText, injectFaults } from "sleeve/conform";
 *
 * class Tank { #litres = 0; fill(litres: number) { return (this.#litres += litres); } }
 * const tank = contract<Tank>("Tank", { examples: { "holds what was filled in": (subject) => subject.fill(2) === 2 } });
 * console.log(faultsText(await injectFaults(tank, () => new Tank())));
 */
export async function injectFaults<Target extends object>(
  givenContract: Contract<Target>,
  args: ImplementationInput<Target>,
  options: InjectOptions = {},
): Promise<FaultReport> {
  const { name = "the implementation", onFault, ...checkOptions } = options;
  const terms = { runs: 50, length: 12, timeout: 200, ...checkOptions };
  const implementation = implementationOf(args);
  const contract = await withSurface(givenContract, implementation);
  const context = contextOf(contract, implementation, terms);
  const operations = await context.operations();
  const calls = await knownCalls(untyped(implementation), operations, context);
  const failing = await failingChecks(contract, implementation, terms);
  // A difference that only arguments show which the wrapper does not handle is not counted.
  const handled = operations.map(({ learned: _, ...operation }) => operation);
  const faults: InjectedFault[] = [];
  let unobservable = 0;
  for (const operation of operations) {
    for (const fault of FAULTS) {
      if (!isApplicable(fault, operation, calls)) continue;
      const altered = withFault(implementation, operation, fault);
      const { result } = await captureUncaught(() =>
        searchDifference(handled, untyped(implementation), untyped(altered), {
          ...context,
          path: undefined,
          equality: equalityOf({}),
        }),
      );
      if (!result.difference) {
        unobservable += 1;
        continue;
      }
      const detected = await detectedBy(contract, altered, failing, terms);
      const injected: InjectedFault = {
        fault: fault.name,
        member: operation.label,
        isDetected: detected !== undefined,
        by: detected?.check,
        finding: detected?.finding,
        example: result.difference.code,
      };
      faults.push(injected);
      onFault?.(injected);
    }
  }
  const detected = faults.filter(({ isDetected }) => isDetected).length;
  return {
    contract: contract.name,
    implementation: name,
    seed: context.seed,
    faults,
    detected,
    missed: faults.length - detected,
    unobservable,
    failing: [...failing],
  };
}

/** Returns the contract with a surface. By default, the members of the given wrapper are those of the target. */
async function withSurface<Target extends object>(
  contract: Contract<Target>,
  implementation: Implementation<Target>,
): Promise<Contract<Target>> {
  if (contract.surface) return contract;
  const members = await withImplementation(untyped(implementation), async (instance) =>
    membersOf(undefined, instance),
  );
  return { ...contract, surface: Object.fromEntries(members.map(({ key, kind }) => [key, kind])) };
}

function withFault<Target extends object>(
  implementation: Implementation<Target>,
  { key }: Operation,
  fault: Fault,
): Implementation<Target> {
  const change = (wrapper: object): object => applyFault(wrapper, key, fault);
  // The source text of the faulty member says nothing about its parameters.
  const sample = implementation.sample ?? untyped(implementation);
  if (isWrapper(implementation)) return { ...implementation.altered(change), sample };
  const originals = new WeakMap<object, Target>();
  return {
    ...implementation,
    sample,
    create: async () => {
      const instance = await implementation.create();
      const altered = change(instance);
      originals.set(altered, instance);
      // It has the members of the target, except for the faulty one.
      return altered as Target;
    },
    release: (altered) => implementation.release?.(originals.get(altered) ?? altered),
  };
}

async function failingChecks<Target extends object>(
  contract: Contract<Target>,
  implementation: Implementation<Target>,
  options: CheckOptions,
): Promise<ReadonlySet<string>> {
  const failing = new Set<string>();
  for (const { name, run } of checksOf(contract, implementation, options))
    if ((await run()).findings.length > 0) failing.add(name);
  return failing;
}

async function detectedBy<Target extends object>(
  contract: Contract<Target>,
  altered: Implementation<Target>,
  failing: ReadonlySet<string>,
  options: CheckOptions,
): Promise<{ readonly check: string; readonly finding: FindingName } | undefined> {
  for (const { name, run } of checksOf(contract, altered, options)) {
    if (failing.has(name)) continue;
    const [finding] = (await run()).findings;
    if (finding) return { check: name, finding: finding.name };
  }
  return undefined;
}

function isApplicable(
  { into, fits }: Fault,
  { use, label }: Operation,
  known: ReadonlyMap<string, KnownCalls>,
): boolean {
  if ((into ?? "calls") !== `${use}s`) return false;
  const calls = known.get(label);
  return !fits || (calls !== undefined && fits(calls));
}

/** Samples the arguments and results of each member with generated sequences. */
async function knownCalls(
  implementation: Implementation<object>,
  operations: readonly Operation[],
  {
    seed,
    length,
    timeout,
    guards,
  }: { seed: number; length: number; timeout: number; guards: Map<string, number> },
): Promise<ReadonlyMap<string, KnownCalls>> {
  const known = new Map<string, { -readonly [Key in keyof KnownCalls]: KnownCalls[Key] }>();
  if (operations.length === 0) return known;
  for (const steps of fc.sample(sequencesOf(operations, { length, isConcurrent: false }), {
    seed,
    numRuns: 30,
  })) {
    const { outcomes } = await withImplementation(implementation, (instance) =>
      runSequence(instance, steps, { timeout, guards }),
    );
    for (const [at, { status, value }] of outcomes.entries()) {
      const step = steps[at];
      if (!step) continue;
      const args = step.args.map((argument) => asSent(asGenerated(argument)));
      const { label } = step.operation;
      const calls = known.get(label) ?? { arity: 0, args: [], answers: [], hasFailed: false, isLater: false };
      known.set(label, calls);
      calls.arity = Math.max(calls.arity, args.length);
      calls.args = [...calls.args, ...args];
      if (status === "threw" || status === "rejected") calls.hasFailed = true;
      else calls.answers = [...calls.answers, value === SELF ? SELF_ANSWER : value];
      if (status === "resolved" || status === "rejected") calls.isLater = true;
    }
  }
  return known;
}

/** Callbacks are functions when they are passed. */
function asSent(argument: unknown): unknown {
  return argument instanceof CallbackValue ? () => {} : argument;
}
