import type { Layer } from "../forward/call.ts";
import { keepsArguments } from "../forward/private-arguments.ts";
import { host } from "../shared/host.ts";
import { requireFunction, requireOptions } from "../shared/options.ts";
import type { Outcome } from "../shared/outcome.ts";
import { type LayerOptions, layer } from "./layer.ts";

/** The measurement of one call. */
export interface Sample {
  /** Name of the member. */
  readonly member: string;
  readonly status: Outcome["status"];
  /** Start of the call, by the clock of the layer, in milliseconds. */
  readonly start: number;
  /** Duration in milliseconds, until the call returned or threw, or until its promise or generator ended. */
  readonly milliseconds: number;
}

export interface TimingOptions<Target> extends LayerOptions<Target> {
  /** Receives each sample: a function of yours, {@link tally}`().record` or {@link userTiming}. */
  readonly onSample: (sample: Sample) => void;
  /** Clock in milliseconds. Default: `performance`, else `Date`. */
  readonly clock?: { now(): number };
}

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
  const { onSample, clock = host.performance ?? Date } = options;
  requireFunction(onSample, "timing: onSample");
  return keepsArguments(
    layer<Target>(
      "timing",
      {
        watch:
          ({ label: member }) =>
          () => {
            const start = clock.now();
            return ({ status }) => onSample({ member, status, start, milliseconds: clock.now() - start });
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
