import fc from "fast-check";
import { reflect } from "../../surface/reflect.ts";
import { equalValues } from "../alike.ts";
import { type Check, check } from "../check.ts";
import type { Context } from "../context.ts";
import type { Finding } from "../finding.ts";
import {
  type Factory,
  type Implementation,
  lend,
  untyped,
  type Waived,
  type Wrapper,
} from "../implementation.ts";
import type { Operation } from "../operations.ts";
import { macrotask, type Seen } from "../play.ts";
import { isThenable } from "../schema.ts";
import { type Spied, spyOn } from "../spy.ts";
import { seenText } from "../text.ts";
import { Whereabouts } from "../whereabouts.ts";
import { around, changed } from "./around.ts";
import { Habits } from "./habits.ts";
import { callOf } from "./trial.ts";

/** What one operation of a facade does: the calls of its subsystems by `subsystem.member`. */
export interface OperationTerms {
  /** The calls in their order. Where it is not given, what a run that goes well does is taken for right. */
  readonly steps?: readonly string[];
  /** For a step, the call that undoes it. Where it is not given, only the order of what is undone is looked at. */
  readonly undo?: Readonly<Record<string, string>>;
}

export interface FacadeOfOptions<Target, Subsystems extends object> {
  /** Makes the subsystems, or small stand-ins for them, by name. It is called many times. */
  readonly subsystems: Factory<Subsystems> | Implementation<Subsystems>;
  readonly wrap: (subsystems: Subsystems) => Target | Promise<Target>;
  readonly release?: (facade: Target) => unknown;
  readonly operations?: { readonly [Key in keyof Target]?: OperationTerms };
  readonly waives?: Waived;
}

/**
 * An implementation that is a facade. Each of its operations has to make its steps in order, stop where one of them fails,
 * undo in reverse what was done, and fail; and no subsystem may call it. Every step of every operation is made to fail once.
 *
 * The arguments of the operations should be such that all goes well: give them in the contract's `arguments`.
 */
export function facadeOf<Target extends object, Subsystems extends object>(
  options: FacadeOfOptions<Target, Subsystems>,
): Wrapper<Target> {
  return {
    ...around(untyped(options.subsystems), options),
    kind: "facade",
    checks: (context) => facadeChecks(options, context),
    altered: (change) => facadeOf<Target, Subsystems>({ ...options, wrap: changed(options.wrap, change) }),
  };
}

function facadeChecks<Target extends object, Subsystems extends object>(
  options: FacadeOfOptions<Target, Subsystems>,
  context: Context<object>,
): readonly Check[] {
  const failures = new FacadeRuns(options, context);
  return [
    check("makes its steps in order", () => failures.orderFindings()),
    check("stops where a step fails, and fails too", () => failures.stopFindings()),
    check("undoes in reverse", () => failures.undoFindings()),
    check("is called by none of its subsystems", () => failures.reentryFindings()),
  ];
}

/** What one call of a facade did. */
interface FacadeRun {
  readonly outcome: Seen;
  /** The calls of the subsystems, by `subsystem.member`. */
  readonly calls: readonly string[];
  /** Which of the calls failed, counted from 0; none is below 0. */
  readonly failing: number;
  /** How many calls had been made when that one failed. */
  readonly begun: number;
  /** The methods of the facade that its subsystems called. */
  readonly called: readonly string[];
}

/** An operation that goes well, and what it does when each of its steps fails. */
interface Rehearsal {
  readonly operation: Operation;
  readonly good: FacadeRun;
  readonly bad: readonly FacadeRun[];
}

const TRIES = 20;

class FacadeRuns<Target extends object, Subsystems extends object> {
  readonly #options: FacadeOfOptions<Target, Subsystems>;
  readonly #context: Context<object>;
  readonly #habits = new Habits();
  #rehearsals: Promise<{ rehearsals: readonly Rehearsal[]; notes: readonly string[] }> | undefined;

  constructor(options: FacadeOfOptions<Target, Subsystems>, context: Context<object>) {
    this.#options = options;
    this.#context = context;
  }

  async orderFindings() {
    return this.#each(({ operation, good }) => {
      const steps = this.#termsOf(operation)?.steps;
      if (!steps) return [];
      const made = good.calls.filter((each) => steps.includes(each));
      if (equalValues(made, [...steps])) return [];
      return [
        finding(
          "step",
          operation,
          `the steps ${steps.join(", ")}`,
          listText(made),
          "Make the steps in this order, each once.",
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
        const further = calls.slice(begun).find((each) => forward.has(each) && !undoing.has(each));
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
            finding("unsettled", operation, `an end after ${step} failed`, "none", "Let the failure out."),
          ];
        const isAnswer = outcome.status === "returned" || outcome.status === "resolved";
        if (!isAnswer || !equalValues(outcome.value, good.outcome.value)) return [];
        const remedy = "Fail, or answer that it was refused: the client takes this for success.";
        return [
          finding(
            "error",
            operation,
            `a failure after ${step} failed`,
            `${seenText(outcome)}, as if all had gone well`,
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
        return bad.flatMap(({ calls, failing: at, begun }): Finding[] => {
          const known = new Set(Object.values(declared));
          const expected = calls
            .slice(0, begun)
            .filter((_, index) => index !== at)
            .reverse()
            .flatMap((each) => declared[each] ?? []);
          const made = calls.slice(begun).filter((each) => known.has(each));
          if (equalValues(made, expected)) return [];
          return [
            finding(
              "undo",
              operation,
              `${listText(expected)} after ${calls[at]} failed`,
              listText(made),
              "Undo what was done, the last first, each once.",
            ),
          ];
        });
      }
      // What is undone when a later step fails ends with what is undone when an earlier one does; of steps that are begun
      // together nobody can tell.
      if (bad.some(({ failing: at, begun }) => begun > at + 1)) return [];
      for (let at = 1; at < undone.length; at += 1) {
        const [before, after] = [undone[at - 1] ?? [], undone[at] ?? []];
        if (equalValues(after.slice(Math.max(0, after.length - before.length)), before)) continue;
        return [
          finding(
            "undo",
            operation,
            `${listText(before)} to be the last that is undone after ${good.calls[bad[at]?.failing ?? at]} failed`,
            listText(after),
            "Undo what was done, the last first, each once.",
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
            "Let subsystems answer, or call back what they are given; who calls the facade must not be called by it.",
          ),
        ),
    );
  }

  async #each(examine: (rehearsal: Rehearsal) => readonly Finding[]) {
    this.#rehearsals ??= this.#rehearsed();
    const { rehearsals, notes } = await this.#rehearsals;
    return { findings: rehearsals.flatMap((each) => examine(each).slice(0, 1)), notes };
  }

  async #rehearsed() {
    const rehearsals: Rehearsal[] = [];
    const notes: string[] = [];
    for (const operation of await this.#context.operations()) {
      if (operation.use !== "call") continue;
      const rehearsal = await this.#rehearsal(operation);
      if (rehearsal) rehearsals.push(rehearsal);
      else
        notes.push(
          `${operation.label} never went well with the arguments that were tried, so its steps are unproven. Give it \`arguments\` in the contract.`,
        );
    }
    return { rehearsals, notes };
  }

  /** The longest of some runs that go well, and one run for each of its calls, which is made to fail. */
  async #rehearsal(operation: Operation): Promise<Rehearsal | undefined> {
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
    // Some calls cannot be made to fail, as those that only begin to listen.
    return { operation, good: best.good, bad: bad.filter(({ failing: at }) => at >= 0) };
  }

  #run(operation: Operation, args: readonly unknown[], failAt: number | undefined): Promise<FacadeRun> {
    return lend(untyped(this.#options.subsystems), async (subsystems) => {
      const calls: string[] = [];
      let failingAt = -1;
      let begun = 0;
      const whereabouts = new Whereabouts();
      const own = this.#spied(
        subsystems,
        (label, spy) => {
          spy.script = (call, real) => {
            const at = calls.push(label(call.key));
            const named = { ...call, key: label(call.key) };
            if (at - 1 !== failAt) return this.#habits.watching(named, real);
            begun = at;
            const result = this.#habits.failing(new Error(`${named.key} failed`), named, real, () => {
              failingAt = at - 1;
            });
            // Steps that were begun together with this one are not steps that were made after it failed.
            return isThenable(result)
              ? later(result, () => {
                  begun = calls.length;
                })
              : result;
          };
        },
        whereabouts,
      );
      const facade = await this.#options.wrap(own as Subsystems);
      const called = watchCalls(facade, whereabouts);
      calls.length = 0;
      const outcome = await callOf(facade, operation, args, this.#context).outcome;
      await macrotask();
      whereabouts.end();
      await this.#options.release?.(facade);
      return { outcome, calls: [...calls], failing: failingAt, begun, called };
    });
  }

  /** The subsystems, each of them spied on. */
  #spied(
    subsystems: object,
    use: (label: (key: PropertyKey | undefined) => string, spy: Spied<object>) => void,
    whereabouts: Whereabouts,
  ): object {
    const spied = Object.entries(subsystems).map(([name, subsystem]) => {
      if ((typeof subsystem !== "object" && typeof subsystem !== "function") || subsystem === null)
        return [name, subsystem] as const;
      const spy = spyOn(subsystem as object, whereabouts);
      use((key) => (key === undefined ? name : `${name}.${String(key)}`), spy);
      return [name, spy.subject] as const;
    });
    return Object.fromEntries(spied);
  }

  #termsOf({ key }: Operation): OperationTerms | undefined {
    return (this.#options.operations as Record<PropertyKey, OperationTerms> | undefined)?.[key as string];
  }
}

/** Takes down which methods of a facade are called from within a subsystem. */
function watchCalls(facade: object, whereabouts: Whereabouts): readonly string[] {
  const called: string[] = [];
  if (!Object.isExtensible(facade)) return called;
  for (const { key, label, kind, enumerable, own, configurable } of reflect(facade)) {
    if (kind !== "method" || (own && !configurable)) continue;
    const method = Reflect.get(facade, key) as (...args: unknown[]) => unknown;
    Object.defineProperty(facade, key, {
      value: function (this: unknown, ...args: unknown[]): unknown {
        if (whereabouts.isInSubject) called.push(label);
        return method.apply(this, args);
      },
      enumerable,
      configurable: true,
      writable: true,
    });
  }
  return called;
}

/** The same promise, with something done at the moment in which it fails. */
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
