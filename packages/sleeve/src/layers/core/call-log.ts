import { createContext } from "../../shared/context.ts";
import { badOption } from "../../shared/errors.ts";
import { host } from "../../shared/host.ts";
import { describeValue, requireFunction, wholeNumber } from "../../shared/options.ts";
import { type Outcome, succeeded } from "../../shared/outcome.ts";
import { type Report, reportOnce } from "../../shared/report-once.ts";
import { handleRejection } from "../../shared/thenable.ts";
import { type Redaction, redacting, requireRedaction } from "./redact.ts";
import { REDACTED } from "./secrets.ts";
import type { Watch, WatchHooks } from "./watch.ts";

interface CallEntry {
  /** Number of the call, the same in both of its entries. */
  readonly call: number;
  /** Number of the outermost logged call that this one was made in, or its own number. */
  readonly within: number;
  readonly member: string;
}

/** A log entry: a call with its arguments, or its end with the result or the error. */
export type LogEntry =
  | (CallEntry & { readonly event: "called"; readonly args: readonly unknown[] })
  | (CallEntry & { readonly event: "returned" | "resolved"; readonly value: unknown })
  | (CallEntry & { readonly event: "threw" | "rejected"; readonly error: unknown });

type Log = (entry: LogEntry, message: string) => void;

/** The methods that the layer needs of a logger. The console and the usual logging packages have them. */
export interface Logger {
  info: Log;
  error: Log;
  debug?: Log;
  trace?: Log;
  warn?: Log;
  /** If it exists and returns `false`, nothing is formatted for that level. */
  isLevelEnabled?(level: never): boolean;
}

/** Options of the log that depend on no request. */
export interface CallLogOptions {
  /** Receives the entries. Default: the console. */
  readonly logger?: Logger;
  /** Level of calls and of successful ends; failures are logged as errors. Default: `info`. */
  readonly level?: "trace" | "debug" | "info";
  /** What to redact besides members and fields that are named like secrets. Default: nothing more. */
  readonly redact?: Redaction;
  /** Maximum number of characters of a string, and of items of a list. Default: 200. */
  readonly length?: number;
}

/** Options of the log, of which some depend on the context of a request. */
export interface RequestLogOptions<Context> extends CallLogOptions {
  /** Returns the logger of a request, with `inContext`, in place of `logger`. Default: none. */
  readonly loggerFor?: (context: Context) => Logger;
  /** Returns fields of a request that each entry gets, with `inContext`, such as its number. Default: none. */
  readonly fields?: (context: Context) => object;
}

/** A call as the log sees it. */
interface CallToLog {
  readonly args: readonly unknown[];
  /** The context of the request. */
  readonly context: unknown;
}

const LEVELS: readonly string[] = ["trace", "debug", "info"];

function requireLogger(logger: unknown): void {
  for (const method of ["info", "error"] as const) {
    if (typeof (logger as Partial<Logger> | null)?.[method] !== "function")
      throw badOption(
        `logging: logger is ${describeValue(logger)} without a method ${method}. Pass an object with info and error, such as console.`,
      );
  }
}

/** @throws {SleeveError} `BAD_OPTION` */
function requireLogOptions(
  logger: Logger,
  level: string,
  { loggerFor, fields, redact = {} }: RequestLogOptions<never>,
): void {
  requireLogger(logger);
  if (loggerFor !== undefined) requireFunction(loggerFor, "logging: loggerFor");
  if (fields !== undefined) requireFunction(fields, "logging: fields");
  requireRedaction(redact);
  if (!LEVELS.includes(level))
    throw badOption(`logging: level is ${describeValue(level)}. Pass one of: ${LEVELS.join(", ")}.`);
}

function messagesOf(member: string) {
  return {
    called: `${member} called`,
    returned: `${member} returned`,
    resolved: `${member} resolved`,
    threw: `${member} threw`,
    rejected: `${member} rejected`,
  };
}

const NONE: readonly boolean[] = [];

const SILENT: Logger = { info: () => {}, error: () => {} };

let lastCall = 0;
const context = createContext<number>();
let isFormatting = false;

/**
 * Returns what logs the calls of a member.
 *
 * @param secretsIn returns for each argument whether it is redacted because of its parameter
 * @throws {SleeveError} `BAD_OPTION`
 */
export function logWatcher<Context, Call extends CallToLog>(
  options: RequestLogOptions<Context>,
  secretsIn: (call: Call) => readonly boolean[],
): (member: { readonly label: string }) => (call: Call) => Watch | undefined {
  const { level = "info", redact: redaction = {}, fields, loggerFor } = options;
  const shared: Logger = options.logger ?? host.console ?? SILENT;
  requireLogOptions(shared, level, options);
  const report = reportOnce("logging");
  const length = wholeNumber(options.length ?? 200, 1, "logging: length");
  const isOn = (logger: Logger, name: string) => logger.isLevelEnabled?.(name as never) !== false;
  const write = (
    logger: Logger,
    at: "trace" | "debug" | "info" | "error",
    plain: LogEntry,
    message: string,
    request: unknown,
  ) => {
    const entry = fields ? { ...fields(request as Context), ...plain } : plain;
    const log = logger[at];
    const answer: unknown = log ? log.call(logger, entry, message) : logger.info(entry, message);
    if (typeof answer === "object") handleRejection(answer, report);
  };
  return ({ label: member }) => {
    const redact = redacting(member, redaction, length);
    /** Formatting may call a getter or a member of a deep wrapper. Such calls are not logged. */
    const format = (value: unknown): unknown => {
      isFormatting = true;
      try {
        return redact(value);
      } finally {
        isFormatting = false;
      }
    };
    const messages = messagesOf(member);
    const end = (call: number, within: number, outcome: Outcome, logger: Logger, request: unknown): void => {
      const at = succeeded(outcome) ? level : "error";
      if (!isOn(logger, at)) return;
      const { status } = outcome;
      const entry: LogEntry = succeeded(outcome)
        ? { call, within, member, event: outcome.status, value: format(outcome.value) }
        : { call, within, member, event: outcome.status, error: format(outcome.error) };
      write(logger, at, entry, messages[status], request);
    };
    // If the level of calls is off, only a failure has an entry, to which inner calls do not refer.
    const quietly = (logger: Logger, request: unknown): Watch => ({
      failed: (outcome) => {
        const call = ++lastCall;
        end(call, context.current() ?? call, outcome, logger, request);
      },
    });
    const begin = (watched: Call, logger: Logger): Watch => {
      const request = watched.context;
      const call = ++lastCall;
      const within = context.current() ?? call;
      const { args: values } = watched;
      const isSecret = values.length > 0 ? secretsIn(watched) : NONE;
      const args: unknown[] = [];
      for (let index = 0; index < values.length; index++)
        args[index] = isSecret[index] ? REDACTED : format(values[index]);
      write(logger, level, { call, within, member, event: "called", args }, messages.called, request);
      return {
        around: (run) => context.run(within, run),
        ended: (outcome) => end(call, within, outcome, logger, request),
      };
    };
    if (loggerFor || fields)
      return (watched: Call): Watch | undefined => {
        if (isFormatting) return undefined;
        // The type of the layer ensures that there is a context if the options need one.
        const logger = loggerFor ? loggerFor(watched.context as Context) : shared;
        return isOn(logger, level) ? begin(watched, logger) : quietly(logger, watched.context);
      };
    // The same for calls without a context, of which most are of a level that is off.
    const always = quietly(shared, undefined);
    return (watched: Call): Watch | undefined => {
      if (isFormatting) return undefined;
      return shared.isLevelEnabled?.(level as never) === false ? always : begin(watched, shared);
    };
  };
}

type CallWatcher = (call: CallToLog) => Watch | undefined;

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
  readonly #logger: Logger | undefined;
  readonly #level: string;
  readonly #watcherOf: (member: { readonly label: string }) => CallWatcher;
  readonly #watchers = new Map<string, CallWatcher>();
  readonly #report: Report = reportOnce("logging");

  constructor(options: CallLogOptions) {
    this.#watcherOf = logWatcher(options, () => NONE);
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
      return watcher({ args, context: undefined });
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
