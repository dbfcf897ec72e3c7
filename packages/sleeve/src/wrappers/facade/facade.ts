import { badOption } from "../../shared/errors.ts";
import { host } from "../../shared/host.ts";
import { reportOnce } from "../../shared/report-once.ts";
import type { CallOptions, Operation, Progress, Refusal } from "./operation.ts";
import { OperationStart } from "./operation.ts";
import { prepareStages, run } from "./run-operation.ts";

export interface FacadeOptions {
  /** Receives the progress of each step. Default: none. */
  readonly progress?: (progress: Progress) => void;
  /** Clock in milliseconds. Default: `performance`, else `Date`. */
  readonly clock?: { now(): number };
}

/** A member of a facade: an operation made of steps, or a function of the subsystems. */
export type FacadeMember<Subsystems> =
  // Any operation; its input, result and reasons are inferred below.
  Operation<Subsystems, never, unknown, unknown> | ((on: Subsystems, ...args: never[]) => unknown);

/** The interface that clients call. */
export type Facade<Members> = {
  readonly [Name in keyof Members]: Members[Name] extends Operation<
    infer _Subsystems,
    infer Input,
    infer Result,
    infer Reason
  >
    ? (
        input: Input,
        options?: CallOptions,
      ) => Promise<Result | ([Reason] extends [never] ? never : Refusal<Reason>)>
    : Members[Name] extends (on: never, ...args: infer Args) => infer Result
      ? (...args: Args) => Result
      : never;
};

/**
 * Puts one interface in front of several subsystems, which do not know about it.
 *
 * An operation consists of named steps. Each step receives the input and the results so far; steps listed
 * together run concurrently. A step that returns `refuse(reason)` ends the operation, and the caller gets
 * that refusal as the result. If a step refuses or fails, completed steps are undone in reverse order, as far
 * as they define how.
 *
 * @throws {OperationFailed} rejects with `OPERATION_FAILED` if a step fails or the signal is aborted; lists
 * what was
 *   undone and what could not be undone
 * @example
 * import { facade, Refusal, refuse, undoable } from "sleeve";
 *
 * const tides = { heightAt: async (time: Date) => time.getUTCHours() / 4 };
 * const ledger = { book: async (vessel: string) => vessel.length, free: async (_berth: number) => {} };
 *
 * const office = facade({ tides, ledger }, (operation) => ({
 *   admit: operation<{ vessel: string; draught: number }>()
 *     .steps({
 *       height: async ({ tides }, { input }) => {
 *         const height = await tides.heightAt(new Date(0));
 *         return height < input.draught ? refuse("too little water" as const) : height;
 *       },
 *     })
 *     .steps({
 *       berth: undoable(({ ledger }, { input }) => ledger.book(input.vessel), ({ ledger }, berth) => ledger.free(berth)),
 *     })
 *     .returns(({ berth }) => berth),
 * }));
 * const answer = await office.admit({ vessel: "Marigold", draught: 2 });
 * console.log(answer instanceof Refusal ? answer.reason : `berth ${answer}`);
 */
export function facade<
  Subsystems extends object,
  Members extends Readonly<Record<string, FacadeMember<Subsystems>>>,
>(
  subsystems: Subsystems,
  define: (operation: <Input = void>() => OperationStart<Subsystems, Input>) => Members,
  { progress, clock = host.performance ?? Date }: FacadeOptions = {},
): Facade<Members> {
  const report = reportOnce("progress", "listener");
  const members = define(() => new OperationStart());
  for (const [name, member] of Object.entries(members)) requireMember(name, member);
  const shown = Object.entries(members).map(([name, member]) => {
    if (typeof member === "function") return [name, (...args: never[]) => member(subsystems, ...args)];
    const stages = prepareStages(member.stages);
    const own = progress ? [progress] : [];
    const operation = (input: unknown, { signal, progress: ofCall }: CallOptions = {}) =>
      run(stages, member.result, {
        name,
        subsystems,
        input,
        listeners: ofCall ? [...own, ofCall] : own,
        report,
        clock,
        ...(signal && { signal }),
      });
    return [name, operation];
  });
  return Object.freeze(Object.fromEntries(shown)) as Facade<Members>;
}

function requireMember(name: string, member: unknown): void {
  if (typeof member === "function") return;
  const stages = (member as Partial<Operation<never, never, never, never>> | undefined)?.stages;
  if (!stages) {
    throw badOption(
      `The facade's member ${name} is ${String(member)}. Pass an operation with steps, or a function.`,
    );
  }
  const steps = new Set(["input"]);
  for (const [step, entry] of stages.flatMap((stage) => Object.entries(stage))) {
    if (steps.has(step)) throw badOption(`${name} has two steps named ${step}. Rename one of them.`);
    steps.add(step);
    if (typeof entry === "function" || typeof entry?.run === "function") continue;
    throw badOption(
      `The step ${step} of ${name} is ${String(entry)}. Pass a function, or undoable(run, undo).`,
    );
  }
}
