import type { Call, Layer } from "../../forward/call.ts";
import { keepsArguments } from "../../forward/private-arguments.ts";
import { createContext } from "../../shared/context.ts";
import { badOption } from "../../shared/errors.ts";
import { host } from "../../shared/host.ts";
import { describeValue, requireFunction, requireOptions, wholeNumber } from "../../shared/options.ts";
import { type Outcome, succeeded } from "../../shared/outcome.ts";
import { reportOnce } from "../../shared/report-once.ts";
import { handleRejection } from "../../shared/thenable.ts";
import type { Member } from "../../surface/member.ts";
import { type LayerOptions, layer, type Watch } from "../layer.ts";
import { type Redaction, redacting, requireRedaction, secretParameters } from "./redact.ts";
import { REDACTED } from "./secrets.ts";

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

export interface LoggingOptions<Target, Context = unknown> extends LayerOptions<Target> {
  /** Receives the entries. Default: the console. */
  readonly logger?: Logger;
  /** Returns the logger of a request, with `inContext`, in place of `logger`. Default: none. */
  readonly loggerFor?: (context: Context) => Logger;
  /** Returns fields of a request that each entry gets, with `inContext`, such as its number. Default: none. */
  readonly fields?: (context: Context) => object;
  /** Level of calls and of successful ends; failures are logged as errors. Default: `info`. */
  readonly level?: "trace" | "debug" | "info";
  /** What to redact besides members and fields that are named like secrets. Default: nothing more. */
  readonly redact?: Redaction;
  /** Maximum number of characters of a string, and of items of a list. Default: 200. */
  readonly length?: number;
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

const NONE: readonly boolean[] = [];

const SILENT: Logger = { info: () => {}, error: () => {} };

let lastCall = 0;
const context = createContext<number>();
let isFormatting = false;

/**
 * Logs each call with its arguments, and how it ended: whether it returned or threw, or how its promise or
 * generator ended.
 *
 * Both entries of a call carry its number. A call made inside another logged call carries that one's number
 * too; in Node.js this holds across awaits.
 *
 * Values are logged as copies. Members and fields with names like secrets (`password`, `apiToken`) are
 * redacted, and so are arguments of parameters with such names; `redact` names more.
 *
 * @example
 * import { decorate, type LogEntry, logging } from "sleeve";
 *
 * const entries: LogEntry[] = [];
 * const keep = (entry: LogEntry) => entries.push(entry);
 * const office = { admit: (vessel: string) => vessel.length > 0 };
 * decorate(office, logging({ logger: { info: keep, error: keep } })).admit("Marigold");
 */
export function logging<Target, Context = unknown>(
  options: LoggingOptions<Target, Context> = {},
): Layer<Target, Context> {
  return keepsArguments(
    layer<Target>(
      "logging",
      { watch: logWatcher(options) },
      {
        ...(options.only && { only: options.only }),
        observesAll: true,
        needsContext: options.loggerFor !== undefined || options.fields !== undefined,
      },
    ),
  );
}

/**
 * Returns what logs the calls of a member.
 *
 * @throws {SleeveError} `BAD_OPTION`
 */
export function logWatcher<Target, Context>(
  options: LoggingOptions<Target, Context>,
): (member: Pick<Member, "label">) => (call: Call<unknown>) => Watch | undefined {
  requireOptions(
    options,
    "logging",
    ["logger", "loggerFor", "fields", "level", "redact", "length", "only"],
    "logging({ logger: pino() })",
  );
  const { level = "info", redact: redaction = {}, fields } = options;
  const { loggerFor } = options;
  const shared: Logger = options.logger ?? host.console ?? SILENT;
  requireLogger(shared);
  if (loggerFor !== undefined) requireFunction(loggerFor, "logging: loggerFor");
  if (fields !== undefined) requireFunction(fields, "logging: fields");
  requireRedaction(redaction);
  if (!LEVELS.includes(level))
    throw badOption(`logging: level is ${describeValue(level)}. Pass one of: ${LEVELS.join(", ")}.`);
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
    const messages = {
      called: `${member} called`,
      returned: `${member} returned`,
      resolved: `${member} resolved`,
      threw: `${member} threw`,
      rejected: `${member} rejected`,
    };
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
    const begin = (watched: Call<unknown>, logger: Logger): Watch => {
      const request = watched.context;
      const call = ++lastCall;
      const within = context.current() ?? call;
      const { args: given } = watched;
      const isSecret = given.length > 0 ? secretParameters(watched) : NONE;
      const args: unknown[] = [];
      for (let index = 0; index < given.length; index++)
        args[index] = isSecret[index] ? REDACTED : format(given[index]);
      write(logger, level, { call, within, member, event: "called", args }, messages.called, request);
      return {
        around: (run) => context.run(within, run),
        ended: (outcome) => end(call, within, outcome, logger, request),
      };
    };
    if (loggerFor || fields)
      return (watched: Call<unknown>): Watch | undefined => {
        if (isFormatting) return undefined;
        // The type of the layer ensures that there is a context if the options need one.
        const logger = loggerFor ? loggerFor(watched.context as Context) : shared;
        return isOn(logger, level) ? begin(watched, logger) : quietly(logger, watched.context);
      };
    // The same for calls without a context, of which most are of a level that is off.
    const always = quietly(shared, undefined);
    return (watched: Call<unknown>): Watch | undefined => {
      if (isFormatting) return undefined;
      return shared.isLevelEnabled?.(level as never) === false ? always : begin(watched, shared);
    };
  };
}
