import fc from "fast-check";
import { checksOf } from "../check.ts";
import { equalityOf } from "../compare.ts";
import { type CheckOptions, contextOf } from "../context.ts";
import type { Contract } from "../contract.ts";
import type { FindingName } from "../finding.ts";
import {
  type Given,
  type Implementation,
  implementationOf,
  isWrapper,
  lend,
  untyped,
} from "../implementation.ts";
import type { Operation } from "../operations.ts";
import { play, SELF } from "../play.ts";
import { searchDifference } from "../search.ts";
import { asGenerated, sequencesOf } from "../steps.ts";
import { withStrays } from "../strays.ts";
import { CallbackValue } from "../values.ts";
import { FAULTS } from "./catalogue.ts";
import { type Fault, type KnownCalls, SELF_ANSWER } from "./fault.ts";
import { faulty } from "./faulty.ts";

/** What the suite of a contract makes of faults that are put into a wrapper, one at a time. */
export interface FaultReport {
  readonly contract: string;
  readonly implementation: string;
  readonly seed: number;
  readonly faults: readonly InjectedFault[];
  readonly noticed: number;
  readonly missed: number;
  /** How many could be put in, and changed nothing that a client could observe. They do not count. */
  readonly unobservable: number;
  /** The checks that fail already without a fault. */
  readonly failing: readonly string[];
}

export interface InjectedFault {
  readonly fault: string;
  readonly member: string;
  readonly isNoticed: boolean;
  /** The check that noticed it, and by which finding. */
  readonly by: string | undefined;
  readonly finding: FindingName | undefined;
  /** The shortest sequence of calls that shows it, as code for an example. */
  readonly example: string;
}

/** As the suite runs once for each fault, it runs shorter: `runs` is 50, `length` 12 and `deadline` 200, unless given. */
export interface InjectOptions extends CheckOptions {
  /** What the wrapper is called in the report. */
  readonly name?: string;
  /** Told after each fault, for whoever waits. */
  readonly onFault?: (fault: InjectedFault) => void;
}

/**
 * Puts known faults into a wrapper, each by itself, runs the suite of the contract on it, and tells which of them the suite
 * would let through, each with an example that would not. Only what changes what a client can observe counts: for each fault
 * a sequence of calls is looked for to which the wrapper answers differently with it than without.
 *
 * @example
 * import { contract, faultsText, injectFaults } from "sleeve/conform";
 *
 * class Tank { #litres = 0; fill(litres: number) { return (this.#litres += litres); } }
 * const tank = contract<Tank>("Tank", { examples: { "holds what was filled in": (each) => each.fill(2) === 2 } });
 * console.log(faultsText(await injectFaults(tank, () => new Tank())));
 */
export async function injectFaults<Target extends object>(
  contract: Contract<Target>,
  given: Given<Target>,
  options: InjectOptions = {},
): Promise<FaultReport> {
  const { name = "the implementation", onFault, ...checkOptions } = options;
  const terms = { runs: 50, length: 12, deadline: 200, ...checkOptions };
  const implementation = implementationOf(given);
  const context = contextOf(contract, implementation, terms);
  const operations = await context.operations();
  const known = await knownCalls(untyped(implementation), operations, context);
  const failing = await failingChecks(contract, implementation, terms);
  const faults: InjectedFault[] = [];
  let unobservable = 0;
  for (const operation of operations) {
    for (const fault of FAULTS) {
      if (!isApplicable(fault, operation, known)) continue;
      const altered = alteredBy(implementation, operation, fault);
      const { result } = await withStrays(() =>
        searchDifference(operations, untyped(implementation), untyped(altered), {
          ...context,
          path: undefined,
          equality: equalityOf({}),
        }),
      );
      if (!result.difference) {
        unobservable += 1;
        continue;
      }
      const noticed = await noticedBy(contract, altered, failing, terms);
      const injected: InjectedFault = {
        fault: fault.name,
        member: operation.label,
        isNoticed: noticed !== undefined,
        by: noticed?.check,
        finding: noticed?.finding,
        example: result.difference.code,
      };
      faults.push(injected);
      onFault?.(injected);
    }
  }
  const noticed = faults.filter(({ isNoticed }) => isNoticed).length;
  return {
    contract: contract.name,
    implementation: name,
    seed: context.seed,
    faults,
    noticed,
    missed: faults.length - noticed,
    unobservable,
    failing: [...failing],
  };
}

function alteredBy<Target extends object>(
  implementation: Implementation<Target>,
  { key }: Operation,
  fault: Fault,
): Implementation<Target> {
  const change = (wrapper: object): object => faulty(wrapper, key, fault);
  if (isWrapper(implementation)) return implementation.altered(change);
  const originals = new WeakMap<object, Target>();
  return {
    ...implementation,
    create: async () => {
      const made = await implementation.create();
      const altered = change(made);
      originals.set(altered, made);
      // It has the members of the target, but for the one that is faulty.
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

async function noticedBy<Target extends object>(
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

/** What some generated sequences tell of each member: with what it is called, and what comes out. */
async function knownCalls(
  implementation: Implementation<object>,
  operations: readonly Operation[],
  {
    seed,
    length,
    deadline,
    guards,
  }: { seed: number; length: number; deadline: number; guards: Map<string, number> },
): Promise<ReadonlyMap<string, KnownCalls>> {
  const known = new Map<string, { -readonly [Key in keyof KnownCalls]: KnownCalls[Key] }>();
  if (operations.length === 0) return known;
  for (const steps of fc.sample(sequencesOf(operations, { length, isConcurrent: false }), {
    seed,
    numRuns: 30,
  })) {
    const { seen } = await lend(implementation, (made) => play(made, steps, { deadline, guards }));
    for (const [at, { status, value }] of seen.entries()) {
      const step = steps[at];
      if (!step) continue;
      const args = step.args.map((each) => asSent(asGenerated(each)));
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

/** Callbacks are functions by the time they are passed. */
function asSent(argument: unknown): unknown {
  return argument instanceof CallbackValue ? () => {} : argument;
}
