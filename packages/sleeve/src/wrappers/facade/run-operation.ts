import { SleeveError } from "../../shared/errors.ts";
import type { Report } from "../../shared/report-once.ts";
import {
  type AnyStep,
  type CallOptions,
  type Progress,
  Refusal,
  type Stage,
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
  readonly listeners: readonly (((progress: Progress) => void) | undefined)[];
  /** Reports a failing listener; the operation continues. */
  readonly report: Report;
  readonly clock: { now(): number };
}

interface Done {
  readonly step: string;
  readonly undo: (() => unknown) | undefined;
}

interface StepEnd {
  readonly step: string;
  readonly error: unknown;
}

/** Runs the stages of an operation in order. If one refuses or fails, undoes the completed steps. */
export async function run(
  stages: readonly Stage[],
  result: (soFar: never) => unknown,
  { name, subsystems, input, signal, listeners, report, clock }: Running,
): Promise<unknown> {
  const soFar: Record<string, unknown> = { input };
  const done: Done[] = [];

  const publish = (step: string, status: Progress["status"], start?: number) => {
    const milliseconds = start === undefined ? 0 : clock.now() - start;
    for (const listener of listeners) {
      try {
        listener?.({ operation: name, step, status, milliseconds });
      } catch (error) {
        report(error);
      }
    }
  };
  const undoAll = async (): Promise<Undoing> => {
    const undone: string[] = [];
    const notUndone: { step: string; error: unknown }[] = [];
    for (const { step, undo } of done.reverse()) {
      if (!undo) continue;
      const start = clock.now();
      try {
        await undo();
        undone.push(step);
        publish(step, "undone", start);
      } catch (error) {
        notUndone.push({ step, error });
        publish(step, "not undone", start);
      }
    }
    return { undone, notUndone };
  };
  /** Runs one step. Its result is recorded on completion, so that concurrent steps do not see it. */
  const runStep = async (
    step: string,
    given: AnyStep,
    seen: object,
  ): Promise<Refusal | StepEnd | undefined> => {
    const start = clock.now();
    publish(step, "started");
    const { run: work, undo } = typeof given === "function" ? { run: given, undo: undefined } : given;
    try {
      const value = await work(subsystems, seen, { signal });
      if (value instanceof Refusal) {
        publish(step, "refused", start);
        return new Refusal(value.reason, step);
      }
      soFar[step] = value;
      // The step's type guarantees that its undo accepts its result.
      done.push({ step, undo: undo && (() => undo(subsystems, value as never, seen)) });
      publish(step, "done", start);
      return undefined;
    } catch (error) {
      publish(step, "failed", start);
      return { step, error };
    }
  };

  for (const stage of stages) {
    if (signal?.aborted) throw new OperationFailed(name, undefined, signal.reason, await undoAll());
    const seen = Object.freeze({ ...soFar });
    // All concurrent steps are awaited, because any of them may have to be undone.
    const ends = await Promise.all(Object.entries(stage).map(([step, given]) => runStep(step, given, seen)));
    const failed = ends.find((end): end is StepEnd => end !== undefined && !(end instanceof Refusal));
    if (failed) throw new OperationFailed(name, failed.step, failed.error, await undoAll());
    const refused = ends.find((end) => end instanceof Refusal);
    if (refused) return new Refusal(refused.reason, refused.step, await undoAll());
  }
  return result(soFar as never);
}
