import type { Layer } from "../forward/call.ts";
import { host } from "../host.ts";
import type { Member } from "../surface/member.ts";
import { createContext } from "./context.ts";
import { type LayerOptions, layer, type Watch } from "./layer.ts";
import { wholeNumber } from "./options.ts";
import { type Outcome, succeeded } from "./outcome.ts";
import { type Redaction, redacting } from "./redact.ts";

interface EntryOfCall {
  /** The number of the call, the same in both of its entries. */
  readonly call: number;
  /** The number of the outermost logged call within which it was made; its own, where there is none. */
  readonly within: number;
  readonly member: string;
}

/** What is logged: that a member was called with these arguments, and later how that call ended. */
export type LogEntry =
  | (EntryOfCall & { readonly event: "called"; readonly args: readonly unknown[] })
  | (EntryOfCall & { readonly event: "returned" | "resolved"; readonly value: unknown })
  | (EntryOfCall & { readonly event: "threw" | "rejected"; readonly error: unknown });

type Log = (entry: LogEntry, message: string) => void;

/** What the layer needs of a logger. The console is one, and so is whatever has these usual methods. */
export interface Logger {
  info: Log;
  error: Log;
  debug?: Log;
  trace?: Log;
  warn?: Log;
  /** Where a logger has it and answers `false`, nothing is formatted for it. */
  isLevelEnabled?(level: never): boolean;
}

export interface LoggingOptions<Target> extends LayerOptions<Target> {
  /** Where entries go. The console, unless given. */
  readonly to?: Logger;
  /** The level of calls and of those that end well; the others are errors. `info`, unless given. */
  readonly level?: "trace" | "debug" | "info";
  /** What is blotted out besides what is named like a secret. */
  readonly hiding?: Redaction;
  /** How many characters of a text and items of a list are written down. 200, unless given. */
  readonly length?: number;
}

const SILENT: Logger = { info: () => {}, error: () => {} };

let lastCall = 0;
const context = createContext<number>();
let isFormatting = false;

/**
 * Logs each call with its arguments, and how it ended: returned or threw, or, of a promise or a generator, when it
 * is over. The two entries of a call carry the same number, and calls made within another logged call carry its
 * number too; in Node.js that holds across awaits.
 *
 * What is logged is a copy, in which fields and members named like secrets (`password`, `apiToken`) are blotted out; `hiding`
 * names more. Errors stay the errors that they are, unless they carry a secret.
 *
 * @example
 * import { decorate, type LogEntry, logging } from "sleeve";
 *
 * const entries: LogEntry[] = [];
 * const keep = (entry: LogEntry) => entries.push(entry);
 * const office = { admit: (vessel: string) => vessel.length > 0 };
 * decorate(office, logging({ to: { info: keep, error: keep } })).admit("Marigold");
 */
export function logging<Target>(options: LoggingOptions<Target> = {}): Layer<Target> {
  const { level = "info", hiding = {} } = options;
  const to: Logger = options.to ?? host.console ?? SILENT;
  const length = wholeNumber(options.length ?? 200, 1, "logging: length");
  const isOn = (each: string) => to.isLevelEnabled?.(each as never) !== false;
  const write = (at: "trace" | "debug" | "info" | "error", entry: LogEntry, message: string) => {
    if (to[at]) to[at](entry, message);
    else to.info(entry, message);
  };
  const watch = ({ label: member }: Member) => {
    const redact = redacting(member, hiding, length);
    /** To read a value may be a call that is logged: of one that is wrapped deeply. That one is not logged. */
    const shown = (value: unknown): unknown => {
      isFormatting = true;
      try {
        return redact(value);
      } finally {
        isFormatting = false;
      }
    };
    return ({ args }: { readonly args: readonly unknown[] }): Watch | undefined => {
      if (isFormatting) return undefined;
      const call = ++lastCall;
      const within = context.current() ?? call;
      const known = { call, within, member };
      const ended = (outcome: Outcome) => {
        const at = succeeded(outcome) ? level : "error";
        if (isOn(at)) write(at, endOf(known, outcome, shown), `${member} ${outcome.status}`);
      };
      // A call that is not told of is not one that others are told to be within.
      if (!isOn(level)) return ended;
      write(level, { ...known, event: "called", args: args.map(shown) }, `${member} called`);
      return { around: (run) => context.run(within, run), ended };
    };
  };
  return layer<Target>(
    "logging",
    { watch },
    { ...(options.only && { only: options.only }), meetsEveryCall: true },
  );
}

function endOf(known: EntryOfCall, outcome: Outcome, shown: (value: unknown) => unknown): LogEntry {
  return succeeded(outcome)
    ? { ...known, event: outcome.status, value: shown(outcome.value) }
    : { ...known, event: outcome.status, error: shown(outcome.error) };
}
