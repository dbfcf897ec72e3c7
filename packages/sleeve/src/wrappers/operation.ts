import type { Signal } from "../layers/clock.ts";
import type { Progress } from "./run-operation.ts";

/** An operation that was refused, as its result: which step refused, and why. */
export class Refusal<Reason = unknown> {
  readonly reason: Reason;
  /** The step that refused. */
  readonly step: string;
  /** The steps that had been done and were undone, in the order of their undoing. */
  readonly undone: readonly string[];
  /** Those that could not be undone, each with its error. */
  readonly notUndone: readonly NotUndone[];

  constructor(reason: Reason, step = "", { undone, notUndone }: Undoing = { undone: [], notUndone: [] }) {
    this.reason = reason;
    this.step = step;
    this.undone = undone;
    this.notUndone = notUndone;
  }
}

/** What became of the steps that were done before one that refused or failed. */
export interface Undoing {
  readonly undone: readonly string[];
  readonly notUndone: readonly NotUndone[];
}

export interface NotUndone {
  readonly step: string;
  readonly error: unknown;
}

/** What a step gives back to refuse. */
export function refuse<Reason>(reason: Reason): Refusal<Reason> {
  return new Refusal(reason);
}

/** Options of one call of an operation. */
export interface CallOptions {
  /** Ends the operation before its next steps; steps get it too, to end their own work. */
  readonly signal?: Signal;
  /** Is told of this call's steps, after the facade's own `progress`. */
  readonly progress?: (progress: Progress) => void;
}

/** What a step is handed beside subsystems and results. */
export interface StepContext {
  readonly signal: Signal | undefined;
}

/** Runs one step: gets the subsystems, then the input and the results before it. */
export type Run<Subsystems, SoFar, Result> = (on: Subsystems, soFar: SoFar, context: StepContext) => Result;

/** A step that says how it is undone. Make one with {@link undoable}. */
export interface Undoable<Subsystems, SoFar, Result> {
  readonly run: Run<Subsystems, SoFar, Result>;
  readonly undo: Undo<Subsystems, SoFar, Result>;
}

/** Undoes a step: gets the subsystems, what the step gave, and what it was given itself. */
export type Undo<Subsystems, SoFar, Result> = (
  on: Subsystems,
  result: Settled<Result>,
  soFar: SoFar,
) => unknown;

/** Says of a step how it is undone where a later one refuses or fails. */
export function undoable<Subsystems, SoFar, Result>(
  run: Run<Subsystems, SoFar, Result>,
  undo: Undo<Subsystems, SoFar, Result>,
): Undoable<Subsystems, SoFar, Result> {
  return { run, undo };
}

type Settled<Result> = Exclude<Awaited<Result>, Refusal<unknown>>;
type ReasonOf<Result> = Result extends Refusal<infer Reason> ? Reason : never;

/** What runs together, by name. */
type Steps<Subsystems, SoFar, Results> = {
  readonly [Name in keyof Results]:
    | Run<Subsystems, SoFar, Results[Name]>
    | Undoable<Subsystems, SoFar, Results[Name]>;
};

/** A step as it is run, whatever it takes and gives. */
export type AnyStep = Run<unknown, unknown, unknown> | Undoable<unknown, unknown, unknown>;
export type Stage = Readonly<Record<string, AnyStep>>;

/** An operation: its steps, those that run together in one stage, and what it gives in the end. */
export interface Operation<Subsystems, Input, Result, Reason> {
  readonly stages: readonly Stage[];
  readonly result: (soFar: never) => unknown;
  /** Carries the types; there is no such property. */
  readonly types?: (on: Subsystems, input: Input) => [Result, Reason];
}

/** An operation that has no step yet. */
export class OperationStart<Subsystems, Input> {
  /** Adds steps that run together; they see the input. */
  steps<Results extends Readonly<Record<string, unknown>>>(
    steps: Steps<Subsystems, { readonly input: Input }, Results>,
  ): OperationSteps<
    Subsystems,
    Input,
    { readonly input: Input } & SettledResults<Results>,
    ReasonsOf<Results>
  > {
    return new OperationSteps([steps as Stage]);
  }
}

type SettledResults<Results> = { readonly [Name in keyof Results]: Settled<Results[Name]> };
type ReasonsOf<Results> = { [Name in keyof Results]: ReasonOf<Awaited<Results[Name]>> }[keyof Results];

/** An operation in the making. Without `gives`, it gives the results of all its steps. */
export class OperationSteps<Subsystems, Input, SoFar, Reason>
  implements Operation<Subsystems, Input, SoFar, Reason>
{
  readonly stages: readonly Stage[];
  readonly result = (soFar: never): unknown => soFar;
  declare readonly types?: (on: Subsystems, input: Input) => [SoFar, Reason];

  constructor(stages: readonly Stage[]) {
    this.stages = stages;
  }

  /** Adds steps that run together, after those before them; they see the input and the results so far. */
  steps<Results extends Readonly<Record<string, unknown>>>(
    steps: Steps<Subsystems, SoFar, Results>,
  ): OperationSteps<Subsystems, Input, SoFar & SettledResults<Results>, Reason | ReasonsOf<Results>> {
    return new OperationSteps([...this.stages, steps as Stage]);
  }

  /** Says what the operation gives in the end, from the input and the results of all its steps. */
  gives<Result>(result: (results: SoFar) => Result): Operation<Subsystems, Input, Awaited<Result>, Reason> {
    return { stages: this.stages, result };
  }
}
