import fc from "fast-check";
import { isThenable } from "../../shared/thenable.ts";
import { reflect } from "../../surface/reflect.ts";
import { check } from "../checks/contract-checks.ts";
import { ExecutionContext } from "../execution/execution-context.ts";
import type { Finding } from "../finding.ts";
import { untyped, withImplementation } from "../implementation.ts";
import type { Operation } from "../sequences/operations.ts";
import { macrotask, type StepOutcome } from "../sequences/sequence-run.ts";
import type { Context, ContractCheck, Factory, Implementation, Suppressions, Wrapper } from "../types.ts";
import { badContract } from "../values/arbitraries.ts";
import { equalValues } from "../values/equality.ts";
import { formatValue, outcomeText } from "../values/format.ts";
import { isObject } from "../values/schema.ts";
import { CallbackConventions } from "./callback-conventions.ts";
import { callOf } from "./probe.ts";
import { type Spied, spyOn } from "./spy.ts";
import { changed, wrapInput } from "./wrap-input.ts";

/** What one operation of a facade does, as calls of subsystems: `subsystem.member`. */
export interface OperationTerms {
  /** The calls in order. Default: those of a successful run. */
  readonly steps?: readonly string[];
  /** The undoing call of each step. Default: only the order of undoing is checked. */
  readonly undo?: Readonly<Record<string, string>>;
}

export interface FacadeOfOptions<Target, Subsystems extends object> {
  /** Creates the subsystems, or small fakes of them, by name. It is called many times. */
  readonly subsystems: Factory<Subsystems> | Implementation<Subsystems>;
  readonly wrap: (subsystems: Subsystems) => Target | Promise<Target>;
  readonly release?: (facade: Target) => unknown;
  readonly operations?: { readonly [Key in keyof Target]?: OperationTerms };
  readonly suppressions?: Suppressions;
}

/**
 * Declares an implementation to be a facade. Each operation must run its steps in order, stop when one fails,
 * undo completed steps in reverse, and fail; no subsystem may call it. Every step of every operation is made
 * to fail once.
 *
 * The arguments should lead to successful operations: give them in the contract's `arguments`.
 */
export function facadeOf<Target extends object, Subsystems extends object>(
  options: FacadeOfOptions<Target, Subsystems>,
): Wrapper<Target> {
  return {
    ...wrapInput(untyped(options.subsystems), options),
    kind: "facade",
    checks: (context) => facadeChecks(options, context),
    altered: (change) => facadeOf<Target, Subsystems>({ ...options, wrap: changed(options.wrap, change) }),
  };
}

function facadeChecks<Target extends object, Subsystems extends object>(
  options: FacadeOfOptions<Target, Subsystems>,
  context: Context<object>,
): readonly ContractCheck[] {
  const failures = new FacadeRuns(options, context);
  return [
    check("runs its steps in order", () => failures.orderFindings()),
    check("stops when a step fails, and fails too", () => failures.stopFindings()),
    check("undoes in reverse", () => failures.undoFindings()),
    check("is called by none of its subsystems", () => failures.reentryFindings()),
  ];
}

/** What one call of a facade did. */
interface FacadeRun {
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

interface CallDetails {
  readonly args: readonly unknown[];
  result?: unknown;
}

/** A successful operation, and its runs with each step failing. */
interface TrialRun {
  readonly operation: Operation;
  readonly good: FacadeRun;
  readonly bad: readonly FacadeRun[];
}

const TRIES = 20;

class FacadeRuns<Target extends object, Subsystems extends object> {
  readonly #options: FacadeOfOptions<Target, Subsystems>;
  readonly #context: Context<object>;
  readonly #conventions = new CallbackConventions();
  #samples: Promise<{ rehearsals: readonly TrialRun[]; notes: readonly string[] }> | undefined;

  constructor(options: FacadeOfOptions<Target, Subsystems>, context: Context<object>) {
    this.#options = options;
    this.#context = context;
  }

  async orderFindings() {
    return this.#each(({ operation, good }) => {
      const steps = this.#termsOf(operation)?.steps;
      if (!steps) return [];
      const made = good.calls.filter((call) => steps.includes(call));
      if (equalValues(made, [...steps])) return [];
      return [
        finding(
          "step",
          operation,
          `the steps ${steps.join(", ")}`,
          listText(made),
          "Run the steps in this order, each once.",
        ),
      ];
    });
  }

  async stopFindings() {
    return this.#each(({ operation, good, bad }) => {
      const undoing = new Set(Object.values(this.#termsOf(operation)?.undo ?? {}));
      return bad.flatMap(({ outcome, calls, failing: at, begun }): Finding[] => {
        const step = calls[at];
        const forward = new Set(good.calls.slice(begun));
        for (const done of good.calls.slice(0, begun)) forward.delete(done);
        const further = calls.slice(begun).find((call) => forward.has(call) && !undoing.has(call));
        if (further) {
          const remedy = "Stop at the first step that fails.";
          return [
            finding(
              "step",
              operation,
              `no further step after ${step} failed`,
              `a call of ${further}`,
              remedy,
            ),
          ];
        }
        if (outcome.status === "unsettled")
          return [
            finding(
              "unsettled",
              operation,
              `a failure after ${step} failed`,
              "none",
              "Let the failure reach the client.",
            ),
          ];
        const isAnswer = outcome.status === "returned" || outcome.status === "resolved";
        if (!isAnswer || !equalValues(outcome.value, good.outcome.value)) return [];
        const remedy = "Fail, or return a refusal; the client takes this result for success.";
        return [
          finding(
            "error",
            operation,
            `a failure after ${step} failed`,
            `${outcomeText(outcome)}, as for a success`,
            remedy,
          ),
        ];
      });
    });
  }

  async undoFindings() {
    return this.#each(({ operation, good, bad }) => {
      const declared = this.#termsOf(operation)?.undo;
      const undone = bad.map(({ calls, begun }) => calls.slice(begun));
      if (declared) {
        return bad.flatMap((run): Finding[] => {
          const { calls, failing: at, begun } = run;
          const known = new Set(Object.values(declared));
          const expected = calls
            .slice(0, begun)
            .filter((_, index) => index !== at)
            .reverse()
            .flatMap((call) => declared[call] ?? []);
          const made = calls.slice(begun).filter((call) => known.has(call));
          if (equalValues(made, expected)) return wrongUndoing(run, declared, operation);
          return [
            finding(
              "undo",
              operation,
              `${listText(expected)} after ${calls[at]} failed`,
              listText(made),
              "Undo completed steps in reverse order, each once.",
            ),
          ];
        });
      }
      // The undoing after a later failure ends with the undoing after an earlier one. For steps that start
      // together, the order is not defined.
      if (bad.some(({ failing: at, begun }) => begun > at + 1)) return [];
      for (let at = 1; at < undone.length; at += 1) {
        const [before, after] = [undone[at - 1] ?? [], undone[at] ?? []];
        if (equalValues(after.slice(Math.max(0, after.length - before.length)), before)) continue;
        return [
          finding(
            "undo",
            operation,
            `${listText(before)} undone last after ${good.calls[bad[at]?.failing ?? at]} failed`,
            listText(after),
            "Undo completed steps in reverse order, each once.",
          ),
        ];
      }
      return [];
    });
  }

  async reentryFindings() {
    return this.#each(({ operation, good }) =>
      good.called
        .slice(0, 1)
        .map((member) =>
          finding(
            "reentry",
            operation,
            "no call of the facade by a subsystem",
            `a call of its ${member}`,
            "Let subsystems return results or call callbacks; a subsystem must not call its facade.",
          ),
        ),
    );
  }

  async #each(examine: (rehearsal: TrialRun) => readonly Finding[]) {
    this.#samples ??= this.#sampleInputs();
    const { rehearsals, notes } = await this.#samples;
    return { findings: rehearsals.flatMap((rehearsal) => examine(rehearsal).slice(0, 1)), notes };
  }

  async #sampleInputs() {
    await this.#requireKnownNames();
    const rehearsals: TrialRun[] = [];
    const notes: string[] = [];
    for (const operation of await this.#context.operations()) {
      if (operation.use !== "call") continue;
      const rehearsal = await this.#findInput(operation);
      if (rehearsal) rehearsals.push(rehearsal);
      else
        notes.push(
          `${operation.label} never succeeded with the generated arguments, so its steps are unproven. Set \`arguments\` in the contract.`,
        );
    }
    return { rehearsals, notes };
  }

  /** @throws {SleeveError} BAD_CONTRACT if `operations` names a call that no subsystem has */
  async #requireKnownNames(): Promise<void> {
    const named = Object.values((this.#options.operations ?? {}) as Record<string, OperationTerms>).flatMap(
      ({ steps = [], undo = {} }) => [...steps, ...Object.entries(undo).flat()],
    );
    if (named.length === 0) return;
    await withImplementation(untyped(this.#options.subsystems), async (subsystems) => {
      const known = Object.entries(subsystems).flatMap(([name, subsystem]) =>
        typeof subsystem === "object" && subsystem !== null
          ? reflect(subsystem as object).map(({ label }) => `${name}.${label}`)
          : [name],
      );
      const unknown = named.find((call) => !known.includes(call));
      if (unknown !== undefined)
        throw badContract(
          `\`operations\` names ${unknown}, which no subsystem has. Name one of ${known.join(", ")}.`,
        );
    });
  }

  /** Returns the longest of several successful runs, and one run with each of its calls failing. */
  async #findInput(operation: Operation): Promise<TrialRun | undefined> {
    let best: { args: readonly unknown[]; good: FacadeRun } | undefined;
    for (const args of fc.sample(operation.args, { seed: this.#context.seed, numRuns: TRIES })) {
      const good = await this.#run(operation, args, undefined);
      const isGood = good.outcome.status === "returned" || good.outcome.status === "resolved";
      if (isGood && good.calls.length > (best?.good.calls.length ?? -1)) best = { args, good };
    }
    if (!best) return undefined;
    const bad: FacadeRun[] = [];
    for (let at = 0; at < best.good.calls.length; at += 1)
      bad.push(await this.#run(operation, best.args, at));
    // Some calls cannot be made to fail, such as those that only start to listen.
    return { operation, good: best.good, bad: bad.filter(({ failing: at }) => at >= 0) };
  }

  #run(operation: Operation, args: readonly unknown[], failAt: number | undefined): Promise<FacadeRun> {
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
            const detail: CallDetails = { args: call.args };
            details.push(detail);
            const named = { ...call, key: label(call.key) };
            if (at - 1 !== failAt) return noteResult(this.#conventions.watching(named, real), detail);
            begun = at;
            const result = this.#conventions.failing(new Error(`${named.key} failed`), named, real, () => {
              failingAt = at - 1;
            });
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
function noteResult(result: unknown, detail: CallDetails): unknown {
  if (!isThenable(result)) detail.result = result;
  else
    result.then(
      (value) => {
        detail.result = value;
      },
      () => {},
    );
  return result;
}

/** An undoing call that receives neither a result nor an argument of its step, nor a part of one, undoes something else. */
function wrongUndoing(
  { calls, details, begun }: FacadeRun,
  undo: Readonly<Record<string, string>>,
  operation: Operation,
): Finding[] {
  for (const [step, undoing] of Object.entries(undo)) {
    const done = details[calls.slice(0, begun).lastIndexOf(step)];
    const undone = calls.indexOf(undoing, begun);
    const args = undone < 0 ? [] : (details[undone]?.args ?? []);
    if (!done || args.length === 0) continue;
    const known = [done.result, ...done.args].flatMap((value) => [
      value,
      ...(isObject(value) ? Object.values(value) : []),
    ]);
    if (args.some((argument) => known.some((value) => equalValues(value, argument)))) continue;
    const remedy = `Pass ${undoing} the result of ${step}.`;
    const expected = `${undoing} with ${formatValue(done.result)}, the result of ${step}`;
    return [finding("undo", operation, expected, `${undoing} with ${formatValue(args)}`, remedy)];
  }
  return [];
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

function listText(calls: readonly string[]): string {
  return calls.length === 0 ? "nothing" : calls.join(", ");
}

function finding(
  name: Finding["name"],
  { label }: Operation,
  expected: string,
  found: string,
  remedy: string,
): Finding {
  return { name, place: label, expected, found, remedy };
}
