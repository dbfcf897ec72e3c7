import type { Signal } from "../../shared/cancellation.ts";

/** The result of an operation that was refused, with the step and the reason. */
export class Refusal<Reason = unknown> {
  readonly reason: Reason;
  /** The step that refused. */
  readonly step: string;
  /** Completed steps that were undone, in the order of undoing. */
  readonly undone: readonly string[];
  /** Steps that could not be undone, each with its error. */
  readonly notUndone: readonly NotUndone[];

  constructor(reason: Reason, step = "", { undone, notUndone }: Undoing = { undone: [], notUndone: [] }) {
    this.reason = reason;
    this.step = step;
    this.undone = undone;
    this.notUndone = notUndone;
  }
}

/** How the completed steps were undone after a refusal or failure. */
export interface Undoing {
  readonly undone: readonly string[];
  readonly notUndone: readonly NotUndone[];
}

export interface NotUndone {
  readonly step: string;
  readonly error: unknown;
}

/** Creates the value that a step returns to refuse. */
export function refuse<Reason>(reason: Reason): Refusal<Reason> {
  return new Refusal(reason);
}

/** The progress of a step: it starts, and is then done, refused or failed; later it may be undone. */
export interface Progress {
  readonly operation: string;
  readonly step: string;
  readonly status: "started" | "done" | "refused" | "failed" | "undone" | "not undone";
  /** Duration in milliseconds; 0 at the start. */
  readonly milliseconds: number;
}

/** Options of one call of an operation. */
export interface CallOptions {
  /** Ends the operation before its next steps. Steps receive it too, to cancel their own work. */
  readonly signal?: Signal;
  /** Receives the progress of this call's steps, after the facade's own `progress`. */
  readonly progress?: (progress: Progress) => void;
}

/** What a step receives besides subsystems and results. */
export interface StepContext {
  readonly signal: Signal | undefined;
}

/** Runs one step. Receives the subsystems, then the input and the results so far. */
export type Run<Subsystems, SoFar, Result> = (on: Subsystems, soFar: SoFar, context: StepContext) => Result;

/** A step that can be undone. Create one with {@link undoable}. */
export interface Undoable<Subsystems, SoFar, Result> {
  readonly run: Run<Subsystems, SoFar, Result>;
  readonly undo: Undo<Subsystems, SoFar, Result>;
}

/** Undoes a step. Receives the subsystems, the step's result, and the step's own input. */
export type Undo<Subsystems, SoFar, Result> = (
  on: Subsystems,
  result: Settled<Result>,
  soFar: SoFar,
) => unknown;

/** Defines how a step is undone if a later one refuses or fails. */
export function undoable<Subsystems, SoFar, Result>(
  run: Run<Subsystems, SoFar, Result>,
  undo: Undo<Subsystems, SoFar, Result>,
): Undoable<Subsystems, SoFar, Result> {
  return { run, undo };
}

type Settled<Result> = Exclude<Awaited<Result>, Refusal<unknown>>;
type ReasonOf<Result> = Result extends Refusal<infer Reason> ? Reason : never;

/** Steps that run concurrently, by name. */
type Steps<Subsystems, SoFar, Results> = {
  readonly [Name in keyof Results]:
    | Run<Subsystems, SoFar, Results[Name]>
    | Undoable<Subsystems, SoFar, Results[Name]>;
};

/** Any step, whatever its input and result. */
export type AnyStep = Run<unknown, unknown, unknown> | Undoable<unknown, unknown, unknown>;
export type Stage = Readonly<Record<string, AnyStep>>;

/** An operation: its stages of concurrent steps, and its result. */
export interface Operation<Subsystems, Input, Result, Reason> {
  readonly stages: readonly Stage[];
  readonly result: (soFar: never) => unknown;
  /** Carries the types; the property does not exist at run time. */
  readonly types?: (on: Subsystems, input: Input) => [Result, Reason];
}

/** An operation without steps. */
export class OperationStart<Subsystems, Input> {
  /** Adds concurrent steps, which receive the input. */
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

/** An operation being defined. Without `returns`, its result is the results of all steps. */
export class OperationSteps<Subsystems, Input, SoFar, Reason>
  implements Operation<Subsystems, Input, SoFar, Reason>
{
  readonly stages: readonly Stage[];
  readonly result = (soFar: never): unknown => soFar;
  declare readonly types?: (on: Subsystems, input: Input) => [SoFar, Reason];

  constructor(stages: readonly Stage[]) {
    this.stages = stages;
  }

  /** Adds concurrent steps after those so far. They receive the input and the results so far. */
  steps<Results extends Readonly<Record<string, unknown>>>(
    steps: Steps<Subsystems, SoFar, Results>,
  ): OperationSteps<Subsystems, Input, SoFar & SettledResults<Results>, Reason | ReasonsOf<Results>> {
    return new OperationSteps([...this.stages, steps as Stage]);
  }

  /** Defines the result of the operation from the input and the results of all steps. */
  returns<Result>(result: (results: SoFar) => Result): Operation<Subsystems, Input, Awaited<Result>, Reason> {
    return { stages: this.stages, result };
  }
}
