import type { Call, Layer } from "../forward/call.ts";
import { createContext } from "../shared/context.ts";
import { badOption } from "../shared/errors.ts";
import { host } from "../shared/host.ts";
import { describeValue, requireOptions, wholeNumber } from "../shared/options.ts";
import { type Outcome, succeeded } from "../shared/outcome.ts";
import { reportOnce } from "../shared/report-once.ts";
import { handleRejection } from "../shared/thenable.ts";
import type { Member } from "../surface/member.ts";
import { type LayerOptions, layer, type Watch } from "./layer.ts";
import { REDACTED, type Redaction, redacting, requireRedaction, secretParameters } from "./redact.ts";

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

export interface LoggingOptions<Target> extends LayerOptions<Target> {
  /** Receives the entries. Default: the console. */
  readonly logger?: Logger;
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
export function logging<Target>(options: LoggingOptions<Target> = {}): Layer<Target> {
  requireOptions(
    options,
    "logging",
    ["logger", "level", "redact", "length", "only"],
    "logging({ logger: pino() })",
  );
  const { level = "info", redact: redaction = {} } = options;
  const logger: Logger = options.logger ?? host.console ?? SILENT;
  requireLogger(logger);
  requireRedaction(redaction);
  if (!LEVELS.includes(level))
    throw badOption(`logging: level is ${describeValue(level)}. Pass one of: ${LEVELS.join(", ")}.`);
  const report = reportOnce("logging");
  const length = wholeNumber(options.length ?? 200, 1, "logging: length");
  const isOn = (name: string) => logger.isLevelEnabled?.(name as never) !== false;
  const write = (at: "trace" | "debug" | "info" | "error", entry: LogEntry, message: string) => {
    const answer: unknown = logger[at] ? logger[at](entry, message) : logger.info(entry, message);
    handleRejection(answer, report);
  };
  const watch = ({ label: member }: Member) => {
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
    return (watched: Call): Watch | undefined => {
      if (isFormatting) return undefined;
      const call = ++lastCall;
      const within = context.current() ?? call;
      const known = { call, within, member };
      const ended = (outcome: Outcome) => {
        const at = succeeded(outcome) ? level : "error";
        if (isOn(at)) write(at, endEntry(known, outcome, format), `${member} ${outcome.status}`);
      };
      // If this level is off, the call has no entry that inner calls could refer to.
      if (!isOn(level)) return ended;
      const isSecret = secretParameters(watched);
      const args = watched.args.map((argument, index) => (isSecret[index] ? REDACTED : format(argument)));
      write(level, { ...known, event: "called", args }, `${member} called`);
      return { around: (run) => context.run(within, run), ended };
    };
  };
  return layer<Target>(
    "logging",
    { watch },
    { ...(options.only && { only: options.only }), observesAll: true },
  );
}

function endEntry(known: CallEntry, outcome: Outcome, format: (value: unknown) => unknown): LogEntry {
  return succeeded(outcome)
    ? { ...known, event: outcome.status, value: format(outcome.value) }
    : { ...known, event: outcome.status, error: format(outcome.error) };
}
