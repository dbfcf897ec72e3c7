import type { Layer } from "../forward/call.ts";
import { host } from "../host.ts";
import { type LayerOptions, layer } from "./layer.ts";
import { type Outcome, succeeded } from "./outcome.ts";
import { isNamedLikeSecret, REDACTED, redact } from "./redact.ts";

/** What is logged: that a member was called with these arguments, and later how that call ended. */
export type LogEntry =
  | {
      readonly call: number;
      readonly member: string;
      readonly event: "called";
      readonly args: readonly unknown[];
    }
  | {
      readonly call: number;
      readonly member: string;
      readonly event: "returned" | "resolved";
      readonly value: unknown;
    }
  | {
      readonly call: number;
      readonly member: string;
      readonly event: "threw" | "rejected";
      readonly error: unknown;
    };

/** What the layer needs of a logger. The console is one, and so is whatever has these usual methods. */
export interface Logger {
  info(entry: LogEntry, message: string): void;
  error(entry: LogEntry, message: string): void;
}

export interface LoggingOptions<Target> extends LayerOptions<Target> {
  /** Where entries go. The console, unless given. */
  readonly to?: Logger;
}

const SILENT: Logger = { info: () => {}, error: () => {} };

let lastCall = 0;

/**
 * Logs each call with its arguments, and how it ended. The two entries of one call carry the same number.
 *
 * Fields and members named like secrets (`password`, `apiToken`) are blotted out.
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
  const { to = host.console ?? SILENT } = options;
  return layer(
    "logging",
    {
      watch: ({ label: member }) => {
        const isSecret = isNamedLikeSecret(member);
        const shown = (value: unknown) => (isSecret ? REDACTED : redact(value));
        return (call) => {
          const number = ++lastCall;
          const args = call.args.map(shown);
          to.info({ call: number, member, event: "called", args }, `${member} called`);
          return (outcome) => {
            const entry = closingEntry(number, member, outcome, shown);
            if (succeeded(outcome)) to.info(entry, `${member} ${outcome.status}`);
            else to.error(entry, `${member} ${outcome.status}`);
          };
        };
      },
    },
    options,
  );
}

function closingEntry(
  call: number,
  member: string,
  outcome: Outcome,
  shown: (value: unknown) => unknown,
): LogEntry {
  return succeeded(outcome)
    ? { call, member, event: outcome.status, value: shown(outcome.value) }
    : { call, member, event: outcome.status, error: outcome.error };
}
