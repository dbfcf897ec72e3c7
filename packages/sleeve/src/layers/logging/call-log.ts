import type { Call } from "../../forward/call.ts";
import { type Outcome, succeeded } from "../../shared/outcome.ts";
import { type Report, reportOnce } from "../../shared/report-once.ts";
import { handleRejection } from "../../shared/thenable.ts";
import type { Watch, WatchHooks } from "../layer.ts";
import { type LoggingOptions, logWatcher } from "./logging.ts";

/** Options of {@link CallLog}: those of `logging` that need no context of a request. */
export type CallLogOptions = Pick<LoggingOptions<unknown>, "logger" | "level" | "redact" | "length">;

/** A call that is logged. */
export interface LoggedCall {
  /** Runs the call, so that calls made within it refer to it. Returns its result, and throws its errors. */
  readonly run: <Result>(call: () => Result) => Result;
  /** Logs how the call ended. Throws nothing. */
  readonly ended: (outcome: Outcome) => void;
}

/**
 * Writes the log entries of a generated wrapper, the same ones as the layer `logging` writes. Errors of the logger are reported
 * once and never reach the caller.
 *
 * @throws {SleeveError} `BAD_OPTION`
 */
export class CallLog {
  readonly #logger: { readonly isLevelEnabled?: (level: never) => boolean } | undefined;
  readonly #level: string;
  readonly #watcherOf: (member: { readonly label: string }) => (call: Call<unknown>) => Watch | undefined;
  readonly #watchers = new Map<string, (call: Call<unknown>) => Watch | undefined>();
  readonly #report: Report = reportOnce("logging");

  constructor(options: CallLogOptions) {
    this.#watcherOf = logWatcher(options);
    this.#logger = options.logger;
    this.#level = options.level ?? "info";
  }

  /** Whether calls are logged, and not only failures. */
  isOn(): boolean {
    try {
      return this.#logger?.isLevelEnabled?.(this.#level as never) !== false;
    } catch (error) {
      this.#report(error);
      return false;
    }
  }

  /** Logs a call. Returns `undefined` if that fails, or if the call was made by the log itself. */
  called(member: string, args: readonly unknown[]): LoggedCall | undefined {
    const watch = this.#watch(member, args);
    // A watch of failures is the one of a level that is off.
    if (typeof watch !== "object" || !("ended" in watch)) return undefined;
    return {
      run: (call) => this.#run(watch, call),
      ended: (outcome) => this.#guarded(() => watch.ended(outcome)),
    };
  }

  /** Logs how a call ended. If only calls are off, a failure has an entry of its own. Throws nothing. */
  ended(member: string, outcome: Outcome, call: LoggedCall | undefined): void {
    if (call) call.ended(outcome);
    if (call || succeeded(outcome) || this.isOn()) return;
    const watch = this.#watch(member, []);
    if (typeof watch === "object" && "failed" in watch) this.#guarded(() => watch.failed(outcome));
  }

  #watch(member: string, args: readonly unknown[]): Watch | undefined {
    try {
      let watcher = this.#watchers.get(member);
      if (!watcher) {
        watcher = this.#watcherOf({ label: member });
        this.#watchers.set(member, watcher);
      }
      return watcher({ member: { key: member, label: member, kind: "method" }, args } as unknown as Call);
    } catch (error) {
      this.#report(error);
      return undefined;
    }
  }

  #run<Result>({ around }: WatchHooks, call: () => Result): Result {
    let outcome: { readonly value: Result } | { readonly error: unknown } | undefined;
    const once = () => {
      try {
        outcome = { value: call() };
      } catch (error) {
        outcome = { error };
      }
    };
    try {
      around(once);
    } catch (error) {
      this.#report(error);
    }
    if (!outcome) once();
    const ended = outcome as unknown as { readonly value: Result } | { readonly error: unknown };
    if ("error" in ended) throw ended.error;
    return ended.value;
  }

  #guarded(log: () => unknown): void {
    try {
      handleRejection(log(), this.#report);
    } catch (error) {
      this.#report(error);
    }
  }
}
