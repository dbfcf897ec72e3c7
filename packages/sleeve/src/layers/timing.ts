import type { Layer } from "../forward/call.ts";
import { host } from "../host.ts";
import { type LayerOptions, layer } from "./layer.ts";
import type { Outcome } from "./outcome.ts";

/** One measured call. */
export interface Sample {
  /** The member that was called. */
  readonly member: string;
  readonly status: Outcome["status"];
  /** When the call began, by the clock of the layer. */
  readonly start: number;
  /** From the call until it returned or threw or, where its result takes its time, until that was over. */
  readonly milliseconds: number;
}

export interface TimingOptions<Target> extends LayerOptions<Target> {
  /** Takes each sample as it is measured: a function of yours, {@link tally} or {@link userTiming}. */
  readonly to: (sample: Sample) => void;
  /** Tells the time in milliseconds. `performance` or, where there is none, `Date`, unless given. */
  readonly clock?: { now(): number };
}

/**
 * Measures how long calls take. Promises are measured until they settle, generators and async generators until they
 * end.
 *
 * @example
 * import { decorate, type Sample, timing } from "sleeve";
 *
 * const samples: Sample[] = [];
 * const ledger = decorate(new Map<string, number>(), timing({ to: (sample) => samples.push(sample), only: ["get"] }));
 * ledger.get("berth 4");
 */
export function timing<Target>(options: TimingOptions<Target>): Layer<Target> {
  const { to, clock = host.performance ?? Date } = options;
  return layer<Target>(
    "timing",
    {
      watch:
        ({ label: member }) =>
        () => {
          const start = clock.now();
          return ({ status }) => to({ member, status, start, milliseconds: clock.now() - start });
        },
    },
    { ...(options.only && { only: options.only }), meetsEveryCall: true },
  );
}

/** Writes samples as User Timing entries, which the browser's and Node's own tools show. */
export function userTiming(sample: Sample): void {
  const { member, status, start, milliseconds } = sample;
  host.performance?.measure?.(member, { start, end: start + milliseconds, detail: { status } });
}
