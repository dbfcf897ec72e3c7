import type { Layer } from "../forward/call.ts";
import { keepsArguments } from "../forward/private-arguments.ts";
import { host } from "../shared/host.ts";
import { requireOptions } from "../shared/options.ts";
import { CallTimer, type CallTimerOptions, type Sample } from "./core/call-timer.ts";
import { type LayerOptions, layer } from "./layer.ts";

export interface TimingOptions<Target> extends LayerOptions<Target>, CallTimerOptions {}

/**
 * Measures how long calls take.
 *
 * Promises, generators and async generators are measured until they settle or end. An error thrown by
 * `onSample` is reported once and never reaches the caller.
 *
 * @example
 * import { decorate, type Sample, timing } from "sleeve";
 *
 * const samples: Sample[] = [];
 * const ledger = decorate(new Map<string, number>(), timing({ onSample: (sample) => samples.push(sample), only: ["get"] }));
 * ledger.get("berth 4");
 */
export function timing<Target>(options: TimingOptions<Target>): Layer<Target> {
  requireOptions(options, "timing", ["onSample", "clock", "only"], "timing({ onSample: tally().record })");
  const timer = new CallTimer(options);
  return keepsArguments(
    layer<Target>(
      "timing",
      {
        watch:
          ({ label: member }) =>
          () => {
            const start = timer.start();
            return ({ status }) => timer.ended(member, status, start);
          },
      },
      { ...(options.only && { only: options.only }), observesAll: true },
    ),
  );
}

/** Writes samples as User Timing entries, which the profilers of browsers and Node.js show. */
export function userTiming(sample: Sample): void {
  const { member, status, start, milliseconds } = sample;
  host.performance?.measure?.(member, { start, end: start + milliseconds, detail: { status } });
}
