import fc from "fast-check";
import { isThenable } from "../../../shared/thenable.ts";
import { reflect } from "../../../surface/reflect.ts";
import { ExecutionContext } from "../../execution/execution-context.ts";
import { stallsSoFar } from "../../execution/stalls.ts";
import type { Finding } from "../../finding.ts";
import { untyped, withImplementation } from "../../implementation.ts";
import type { Operation } from "../../sequences/operations.ts";
import { macrotask, type StepOutcome } from "../../sequences/sequence-run.ts";
import type { Context } from "../../types.ts";
import { badContract } from "../../values/arbitraries.ts";
import { CallbackConventions } from "../callback-conventions.ts";
import { callOf } from "../probe.ts";
import { type Spied, spyOn } from "../spy.ts";
import type { FacadeOfOptions, OperationTerms } from "./options.ts";

/** What one call of a facade did. */
export interface FacadeRun {
  readonly outcome: StepOutcome;
  /** The calls of the subsystems, as `subsystem.member`. */
  readonly calls: readonly string[];
  /** The arguments of each call, and its result once it succeeded. */
  readonly details: readonly CallDetails[];
  /** Index of the failing call; -1 if none failed. */
  readonly failing: number;
  /** Number of calls made before that one failed. */
  readonly begun: number;
  /** Methods of the facade that its subsystems called. */
  readonly called: readonly string[];
}

/** One call of a subsystem. */
export interface CallDetails {
  readonly args: readonly unknown[];
  result?: unknown;
  /** Number of calls made before this one ended. Calls made meanwhile run together with it. */
  settledAt: number;
}

/** A successful operation, and its runs with each step failing. */
export interface OperationRuns {
  readonly operation: Operation;
  readonly good: FacadeRun;
  readonly bad: readonly FacadeRun[];
  /** Runs in which a call that undoes a step fails too, each with the run in which it does not. */
  readonly worse: readonly {
    readonly run: FacadeRun;
    readonly before: FacadeRun;
    readonly undoing: string;
  }[];
}

/** Number of argument lists tried for each operation. */
const TRIES = 20;

/** The runs of each operation of a facade, made once for all laws. */
export class FacadeRuns<Target extends object, Subsystems extends object> {
  readonly #options: FacadeOfOptions<Target, Subsystems>;
  readonly #context: Context<object>;
  readonly #conventions = new CallbackConventions();
  #samples: Promise<{ found: readonly OperationRuns[]; notes: readonly string[] }> | undefined;
  /** The number of stalls of the machine before the inputs were sampled. After another one, they are sampled again. */
  #stalls = 0;

  constructor(options: FacadeOfOptions<Target, Subsystems>, context: Context<object>) {
    this.#options = options;
    this.#context = context;
  }

  /** Returns the first finding of a law for each operation. */
  async findings(
    law: (run: OperationRuns, terms: OperationTerms | undefined) => readonly Finding[],
  ): Promise<{ readonly findings: readonly Finding[]; readonly notes: readonly string[] }> {
    const stalls = stallsSoFar();
    if (!this.#samples || this.#stalls !== stalls) this.#samples = this.#sampleInputs();
    this.#stalls = stalls;
    const { found, notes } = await this.#samples;
    return { findings: found.flatMap((run) => law(run, this.#termsOf(run.operation)).slice(0, 1)), notes };
  }

  async #sampleInputs() {
    await this.#requireKnownNames();
    const finding: OperationRuns[] = [];
    const notes: string[] = [];
    for (const operation of await this.#context.operations()) {
      if (operation.use !== "call") continue;
      const runs = await this.#findInput(operation);
      if (runs) finding.push(runs);
      else
        notes.push(
          `${operation.label} never succeeded with the generated arguments, so its steps are unproven. Set \`arguments\` in the contract.`,
        );
    }
    return { found: finding, notes };
  }

  /** @throws {SleeveError} BAD_CONTRACT if `operations` names a call that no subsystem has */
  async #requireKnownNames(): Promise<void> {
    const named = Object.values((this.#options.operations ?? {}) as Record<string, OperationTerms>).flatMap(
      ({ steps = [], undo = {} }) => [...steps, ...Object.entries(undo).flat()],
    );
    if (named.length === 0) return;
    await withImplementation(untyped(this.#options.subsystems), async (subsystems) => {
      const subsystemCalls = Object.entries(subsystems).flatMap(([name, subsystem]) =>
        typeof subsystem === "object" && subsystem !== null
          ? reflect(subsystem as object).map(({ label }) => `${name}.${label}`)
          : [name],
      );
      const unknown = named.find((call) => !subsystemCalls.includes(call));
      if (unknown !== undefined)
        throw badContract(
          `\`operations\` names ${unknown}, which no subsystem has. Name one of ${subsystemCalls.join(", ")}.`,
        );
    });
  }

  /** Returns the longest of several successful runs, and one run with each of its calls failing. */
  async #findInput(operation: Operation): Promise<OperationRuns | undefined> {
    let best: { args: readonly unknown[]; good: FacadeRun } | undefined;
    for (const args of fc.sample(operation.args, { seed: this.#context.seed, numRuns: TRIES })) {
      const good = await this.#run(operation, args, []);
      const isGood = good.outcome.status === "returned" || good.outcome.status === "resolved";
      if (isGood && good.calls.length > (best?.good.calls.length ?? -1)) best = { args, good };
    }
    if (!best) return undefined;
    const bad: FacadeRun[] = [];
    for (let at = 0; at < best.good.calls.length; at += 1)
      bad.push(await this.#run(operation, best.args, [at]));
    // Some calls cannot be made to fail, such as those that only start to listen.
    const failed = bad.filter(({ failing: at }) => at >= 0);
    return {
      operation,
      good: best.good,
      bad: failed,
      worse: await this.#undoFailures(operation, best, failed),
    };
  }

  /** Runs an operation again with each of the calls failing that undo its steps. */
  async #undoFailures(
    operation: Operation,
    { args, good }: { readonly args: readonly unknown[]; readonly good: FacadeRun },
    bad: readonly FacadeRun[],
  ): Promise<OperationRuns["worse"]> {
    const steps = new Set(good.calls);
    const worse: OperationRuns["worse"][number][] = [];
    for (const before of bad) {
      for (let at = before.begun; at < before.calls.length; at += 1) {
        const undoing = before.calls[at] ?? "";
        if (steps.has(undoing)) continue;
        const run = await this.#run(operation, args, [before.failing, at]);
        if (run.failing === before.failing && run.calls[at] === undoing) worse.push({ run, before, undoing });
      }
    }
    return worse;
  }

  /** @param failAt indices of the calls to fail, in order */
  #run(operation: Operation, args: readonly unknown[], failAt: readonly number[]): Promise<FacadeRun> {
    return withImplementation(untyped(this.#options.subsystems), async (subsystems) => {
      const calls: string[] = [];
      const details: CallDetails[] = [];
      let failingAt = -1;
      let begun = 0;
      const context = new ExecutionContext();
      const own = this.#spied(
        subsystems,
        (label, spy) => {
          spy.script = (call, real) => {
            const at = calls.push(label(call.key));
            const detail: CallDetails = { args: call.args, settledAt: at };
            details.push(detail);
            const named = { ...call, key: label(call.key) };
            if (!failAt.includes(at - 1))
              return noteResult(this.#conventions.watching(named, real), detail, () => calls.length);
            const isFirst = at - 1 === failAt[0];
            if (isFirst) begun = at;
            const result = this.#conventions.failing(new Error(`${named.key} failed`), named, real, () => {
              if (isFirst) failingAt = at - 1;
            });
            if (!isFirst) return result;
            // Steps that start together with this one do not run after it failed.
            return isThenable(result)
              ? later(result, () => {
                  begun = calls.length;
                })
              : result;
          };
        },
        context,
      );
      const facade = await this.#options.wrap(own as Subsystems);
      const called = watchCalls(facade, context);
      calls.length = 0;
      details.length = 0;
      const outcome = await callOf(facade, operation, args, this.#context).outcome;
      await macrotask();
      context.end();
      await this.#options.release?.(facade);
      return { outcome, calls: [...calls], details: [...details], failing: failingAt, begun, called };
    });
  }

  /** The subsystems, with spies. */
  #spied(
    subsystems: object,
    use: (label: (key: PropertyKey | undefined) => string, spy: Spied<object>) => void,
    context: ExecutionContext,
  ): object {
    const spied = Object.entries(subsystems).map(([name, subsystem]) => {
      if ((typeof subsystem !== "object" && typeof subsystem !== "function") || subsystem === null)
        return [name, subsystem] as const;
      const spy = spyOn(subsystem as object, context);
      use((key) => (key === undefined ? name : `${name}.${String(key)}`), spy);
      return [name, spy.subject] as const;
    });
    return Object.fromEntries(spied);
  }

  #termsOf({ key }: Operation): OperationTerms | undefined {
    return (this.#options.operations as Record<PropertyKey, OperationTerms> | undefined)?.[key as string];
  }
}

/** Notes the result of a call when it is there. */
function noteResult(result: unknown, detail: CallDetails, instance: () => number): unknown {
  if (!isThenable(result)) detail.result = result;
  else
    result.then(
      (value) => {
        detail.result = value;
        detail.settledAt = instance();
      },
      () => {},
    );
  return result;
}

/** Records which methods of a facade are called from within a subsystem. */
function watchCalls(facade: object, context: ExecutionContext): readonly string[] {
  const called: string[] = [];
  if (!Object.isExtensible(facade)) return called;
  for (const { key, label, kind, enumerable, own, configurable } of reflect(facade)) {
    if (kind !== "method" || (own && !configurable)) continue;
    const method = Reflect.get(facade, key) as (...args: unknown[]) => unknown;
    Object.defineProperty(facade, key, {
      value: function (this: unknown, ...args: unknown[]): unknown {
        if (context.isInSubject) called.push(label);
        return method.apply(this, args);
      },
      enumerable,
      configurable: true,
      writable: true,
    });
  }
  return called;
}

/** Returns the same promise, and calls a function at the moment it rejects. */
async function later(promise: PromiseLike<unknown>, failed: () => void): Promise<unknown> {
  promise.then(undefined, () => {});
  await macrotask();
  failed();
  return promise;
}
