import { badOption } from "../errors.ts";
import { host } from "../host.ts";
import { reportOnce } from "../layers/report.ts";
import type { CallOptions, Operation, Refusal } from "./operation.ts";
import { OperationStart } from "./operation.ts";
import { type Progress, run } from "./run-operation.ts";

export interface FacadeOptions {
  /** Is told when each step begins and how it ends. */
  readonly progress?: (progress: Progress) => void;
  /** Tells the time in milliseconds. `performance` or, where there is none, `Date`, unless given. */
  readonly clock?: { now(): number };
}

/** What stands in a facade under one name: an operation of steps, or a plain function of the subsystems. */
export type FacadeMember<Subsystems> =
  // Whatever it takes, gives and refuses with; which is read off each below.
  Operation<Subsystems, never, unknown, unknown> | ((on: Subsystems, ...args: never[]) => unknown);

/** What clients call. */
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
 * Puts one simple interface before several subsystems, which know nothing of it.
 *
 * An operation is made of named steps. Each sees the input and the results before it; those listed together run
 * together. A step that gives back `refuse(reason)` ends the operation, and the caller gets that refusal as its result.
 * Where a step refuses or fails, those done before it are undone in reverse order, as far as they say how.
 *
 * @throws {OperationFailed} rejects with `OPERATION_FAILED` where a step fails or the signal is aborted; says what was
 *   undone and what could not be
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
 *     .gives(({ berth }) => berth),
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
  const shown = Object.entries(members).map(([name, member]) => [
    name,
    typeof member === "function"
      ? (...args: never[]) => member(subsystems, ...args)
      : (input: unknown, { signal, progress: ofCall }: CallOptions = {}) =>
          run(member.stages, member.result, {
            name,
            subsystems,
            input,
            listeners: [progress, ofCall],
            report,
            clock,
            ...(signal && { signal }),
          }),
  ]);
  return Object.freeze(Object.fromEntries(shown)) as Facade<Members>;
}

function requireMember(name: string, member: unknown): void {
  if (typeof member === "function") return;
  const stages = (member as Partial<Operation<never, never, never, never>> | undefined)?.stages;
  if (!stages) {
    throw badOption(
      `The facade's ${name} is ${String(member)}. Make it an operation with steps, or a function.`,
    );
  }
  const steps = new Set(["input"]);
  for (const [step, given] of stages.flatMap((stage) => Object.entries(stage))) {
    if (steps.has(step)) throw badOption(`${name} has two things called ${step}. Name the step otherwise.`);
    steps.add(step);
    if (typeof given === "function" || typeof given?.run === "function") continue;
    throw badOption(
      `The step ${step} of ${name} is ${String(given)}. Make it a function, or undoable(run, undo).`,
    );
  }
}
