import { SleeveError } from "../../shared/errors.ts";
import type { Report } from "../../shared/report-once.ts";
import {
  type AnyStep,
  type CallOptions,
  type Progress,
  Refusal,
  type Run,
  type Stage,
  type StepContext,
  type Undo,
  type Undoing,
} from "./operation.ts";

/** A step failed, or the signal was aborted. `cause` is the error of the step or the reason of the signal. */
export class OperationFailed extends SleeveError {
  override readonly name: string = "OperationFailed";
  readonly operation: string;
  /** The step that failed; `undefined` if the signal was aborted between steps. */
  readonly step: string | undefined;
  readonly undone: Undoing["undone"];
  readonly notUndone: Undoing["notUndone"];

  constructor(operation: string, step: string | undefined, cause: unknown, { undone, notUndone }: Undoing) {
    const reason = cause instanceof Error ? cause.message : String(cause);
    const what = step ? `failed in step ${step}` : "was aborted";
    const done = undone.length > 0 ? ` Undone: ${undone.join(", ")}.` : "";
    const left = notUndone.map(({ step: each }) => each).join(", ");
    const remedy = left ? ` Not undone, to be corrected manually: ${left}.` : "";
    super("OPERATION_FAILED", `The operation ${operation} ${what}: ${reason}.${done}${remedy}`, { cause });
    this.operation = operation;
    this.step = step;
    this.undone = undone;
    this.notUndone = notUndone;
  }
}

export interface Running extends Pick<CallOptions, "signal"> {
  readonly name: string;
  readonly subsystems: object;
  readonly input: unknown;
  /** Receive the progress of each step, in order. */
  readonly listeners: readonly ((progress: Progress) => void)[];
  /** Reports a failing listener; the operation continues. */
  readonly report: Report;
  readonly clock: { now(): number };
}

/** A step in the form in which operations run it. */
interface PreparedStep {
  readonly step: string;
  readonly work: Run<unknown, unknown, unknown>;
  readonly undo: Undo<unknown, unknown, unknown> | undefined;
}

/** The steps of each stage; those of one stage run at the same time. */
export type PreparedStages = readonly (readonly PreparedStep[])[];

export function prepareStages(stages: readonly Stage[]): PreparedStages {
  return stages.map((stage) =>
    Object.entries(stage).map(([step, entry]: [string, AnyStep]) =>
      typeof entry === "function"
        ? { step, work: entry, undo: undefined }
        : { step, work: entry.run, undo: entry.undo },
    ),
  );
}

/** A completed step. */
interface Done {
  readonly step: PreparedStep;
  readonly value: unknown;
  /** The results that the step received. */
  readonly seen: object;
}

interface StepEnd {
  readonly step: string;
  readonly error: unknown;
}

/** Runs the stages of an operation in order. If one refuses or fails, undoes the completed steps. */
export async function run(
  stages: PreparedStages,
  result: (soFar: never) => unknown,
  running: Running,
): Promise<unknown> {
  const { name, signal } = running;
  const operation = new RunningOperation(running);
  for (const steps of stages) {
    if (signal?.aborted) throw new OperationFailed(name, undefined, signal.reason, await operation.undoAll());
    const [only] = steps;
    // All concurrent steps are awaited, because any of them may have to be undone.
    const end =
      only && steps.length === 1
        ? await operation.runStep(only, operation.seen())
        : worst(await Promise.all(runTogether(operation, steps)));
    if (end === undefined) continue;
    if (end instanceof Refusal) return new Refusal(end.reason, end.step, await operation.undoAll());
    throw new OperationFailed(name, end.step, end.error, await operation.undoAll());
  }
  return result(operation.soFar as never);
}

/** Returns the first failure of concurrent steps, or else the first refusal. */
function worst(ends: readonly (Refusal | StepEnd | undefined)[]): Refusal | StepEnd | undefined {
  return (
    ends.find((end) => end !== undefined && !(end instanceof Refusal)) ??
    ends.find((end) => end !== undefined)
  );
}

function runTogether(
  operation: RunningOperation,
  steps: readonly PreparedStep[],
): readonly Promise<Refusal | StepEnd | undefined>[] {
  // All see the results before the first of them starts.
  const observed = steps.map(() => operation.seen());
  return steps.map((step, at) => operation.runStep(step, observed[at] as object));
}

/** One call of an operation. */
class RunningOperation {
  readonly soFar: Record<string, unknown>;
  readonly #running: Running;
  readonly #context: StepContext;
  readonly #done: Done[] = [];

  constructor(running: Running) {
    this.#running = running;
    this.soFar = { input: running.input };
    this.#context = { signal: running.signal };
  }

  /** Returns the results so far, for one step. A copy, so that a step cannot change what others see. */
  seen(): object {
    return { ...this.soFar };
  }

  /** Runs one step. Its result is recorded on completion, so that concurrent steps do not see it. */
  async runStep(prepared: PreparedStep, observed: object): Promise<Refusal | StepEnd | undefined> {
    const { step } = prepared;
    const start = this.#start();
    this.#publish(step, "started");
    try {
      const value = await prepared.work(this.#running.subsystems, observed, this.#context);
      if (value instanceof Refusal) {
        this.#publish(step, "refused", start);
        return new Refusal(value.reason, step);
      }
      this.soFar[step] = value;
      this.#done.push({ step: prepared, value, seen: observed });
      this.#publish(step, "done", start);
      return undefined;
    } catch (error) {
      this.#publish(step, "failed", start);
      return { step, error };
    }
  }

  async undoAll(): Promise<Undoing> {
    const undone: string[] = [];
    const notUndone: { step: string; error: unknown }[] = [];
    for (const { step: prepared, value, seen: observed } of this.#done.reverse()) {
      const { step, undo } = prepared;
      if (!undo) continue;
      const start = this.#start();
      try {
        await undo(this.#running.subsystems, value, observed);
        undone.push(step);
        this.#publish(step, "undone", start);
      } catch (error) {
        notUndone.push({ step, error });
        this.#publish(step, "not undone", start);
      }
    }
    return { undone, notUndone };
  }

  /** The clock is read for listeners only. */
  #start(): number {
    return this.#running.listeners.length > 0 ? this.#running.clock.now() : 0;
  }

  #publish(step: string, status: Progress["status"], start?: number): void {
    const { listeners, clock, name, report } = this.#running;
    if (listeners.length === 0) return;
    const milliseconds = start === undefined ? 0 : clock.now() - start;
    for (const listener of listeners) {
      try {
        listener({ operation: name, step, status, milliseconds });
      } catch (error) {
        report(error);
      }
    }
  }
}
