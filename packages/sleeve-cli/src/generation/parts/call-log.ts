import type { Outcome } from "./observe.ts";
import { reportOnce } from "./report-once.ts";

/** A log entry: a call with its arguments, or its end with the result or the error. */
export interface CallEntry {
  /** Number of the call, the same in both of its entries. */
  readonly call: number;
  readonly member: string;
  readonly event: "called" | Outcome["status"];
  readonly args?: readonly unknown[];
  readonly value?: unknown;
  readonly error?: unknown;
}

export interface CallLogOptions {
  /** Receives the entries. */
  readonly logger: {
    info(entry: CallEntry, message: string): unknown;
    error(entry: CallEntry, message: string): unknown;
    isLevelEnabled?(level: never): boolean;
  };
  /**
   * Returns what is logged of a value. Default: primitives as they are, of strings at most 200 characters, and of objects the
   * name of their class, because they may contain secrets.
   */
  readonly format?: (value: unknown, member: string) => unknown;
}

export interface LoggedCall {
  readonly run: <Result>(call: () => Result) => Result;
  readonly ended: (outcome: Outcome) => void;
}

/** Logs calls. Errors of the logger are printed once, and never reach the caller. */
export class CallLog {
  readonly #logger: CallLogOptions["logger"];
  readonly #format: NonNullable<CallLogOptions["format"]>;
  readonly #report = reportOnce("logging");
  #last = 0;

  constructor({ logger, format = loggedValue }: CallLogOptions) {
    this.#logger = logger;
    this.#format = format;
  }

  isOn(): boolean {
    try {
      return this.#logger.isLevelEnabled?.("info" as never) !== false;
    } catch (error) {
      this.#report(error);
      return false;
    }
  }

  called(member: string, args: readonly unknown[]): LoggedCall {
    const call = ++this.#last;
    const shown = () => args.map((value) => this.#format(value, member));
    this.#write("info", () => ({ call, member, event: "called", args: shown() }));
    return { run: (inner) => inner(), ended: (outcome) => this.#ended(call, member, outcome) };
  }

  /** Logs how a call ended. If only calls are off, a failure has an entry of its own. */
  ended(member: string, outcome: Outcome, call: LoggedCall | undefined): void {
    if (call) call.ended(outcome);
    else if ("error" in outcome && !this.isOn()) this.#ended(++this.#last, member, outcome);
  }

  #ended(call: number, member: string, outcome: Outcome): void {
    const event = outcome.status;
    if ("error" in outcome)
      this.#write("error", () => ({ call, member, event, error: this.#format(outcome.error, member) }));
    else this.#write("info", () => ({ call, member, event, value: this.#format(outcome.value, member) }));
  }

  #write(level: "info" | "error", entryOf: () => CallEntry): void {
    try {
      if (this.#logger.isLevelEnabled?.(level as never) === false) return;
      const entry = entryOf();
      const answer = this.#logger[level](entry, `${entry.member} ${entry.event}`);
      if (answer instanceof Promise) answer.then(undefined, this.#report);
    } catch (error) {
      this.#report(error);
    }
  }
}

const SECRET_NAME =
  /pass(word|phrase|code|wd)|pwd|secret|token|credential|authori[sz]ation|api[-_]?key|private[-_]?key|cookie/i;

function loggedValue(value: unknown, member: string): unknown {
  if (SECRET_NAME.test(member)) return "[redacted]";
  if (typeof value === "string") return value.length > 200 ? `${value.slice(0, 200)}…` : value;
  if (value instanceof Error) return `${value.name}: ${value.message}`;
  if (typeof value === "function" || (typeof value === "object" && value !== null))
    return Object.prototype.toString.call(value);
  return value;
}
