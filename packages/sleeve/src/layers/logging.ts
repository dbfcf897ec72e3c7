import type { Call, Layer } from "../forward/call.ts";
import { keepsArguments } from "../forward/private-arguments.ts";
import { requireOptions } from "../shared/options.ts";
import { logWatcher, type RequestLogOptions } from "./core/call-log.ts";
import { type LayerOptions, layer } from "./layer.ts";
import { secretParameters } from "./secret-parameters.ts";

export interface LoggingOptions<Target, Context = unknown>
  extends LayerOptions<Target>,
    RequestLogOptions<Context> {}

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
  requireOptions(
    options,
    "logging",
    ["logger", "loggerFor", "fields", "level", "redact", "length", "only"],
    "logging({ logger: pino() })",
  );
  return keepsArguments(
    layer<Target>(
      "logging",
      { watch: logWatcher<Context, Call<unknown>>(options, secretParameters) },
      {
        ...(options.only && { only: options.only }),
        observesAll: true,
        needsContext: options.loggerFor !== undefined || options.fields !== undefined,
      },
    ),
  );
}
