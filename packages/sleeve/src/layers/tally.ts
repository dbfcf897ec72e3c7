import type { Sample } from "./core/call-timer.ts";

/** Statistics of the calls of one member. Durations are in milliseconds; one that is not a number is counted only. */
export interface MemberStats {
  readonly calls: number;
  /** Number of calls that threw or rejected. */
  readonly failures: number;
  readonly sum: number;
  readonly max: number;
  /** Returns the duration below which the fraction `q` of calls lies, exact to 2 %. `q` is from 0 to 1. */
  quantile(q: number): number;
}

/** Collects call statistics by member, in constant memory. */
export interface Tally {
  /** Adds a sample. Pass it to {@link timing} as `onSample`. */
  readonly record: (sample: Sample) => void;
  /** Returns the current statistics by member. */
  members(): ReadonlyMap<string, MemberStats>;
}

/**
 * Creates a tally of calls by member.
 *
 * @example
 * import { decorate, tally, timing } from "sleeve";
 *
 * const times = tally();
 * const office = decorate({ admit: (vessel: string) => vessel.length }, timing({ onSample: times.record }));
 * office.admit("Marigold");
 * times.members().get("admit")?.quantile(0.95);
 */
export function tally(): Tally {
  const members = new Map<string, MemberTally>();
  return {
    record: (sample) => {
      let member = members.get(sample.member);
      if (!member) {
        member = new MemberTally();
        members.set(sample.member, member);
      }
      member.add(sample);
    },
    members: () => new Map(members),
  };
}

/** Growth factor of bucket widths; quantiles are exact to half of it. */
const GROWTH = Math.log(1.04);

class MemberTally implements MemberStats {
  calls = 0;
  failures = 0;
  sum = 0;
  max = 0;
  #measured = 0;
  readonly #buckets = new Map<number, number>();

  add({ status, milliseconds }: Sample): void {
    this.calls += 1;
    if (status === "threw" || status === "rejected") this.failures += 1;
    // A clock that was set back or is broken must not spoil the sum for ever.
    if (!Number.isFinite(milliseconds)) return;
    this.#measured += 1;
    this.sum += milliseconds;
    this.max = Math.max(this.max, milliseconds);
    const bucket = milliseconds > 0 ? Math.round(Math.log(milliseconds) / GROWTH) : Number.NEGATIVE_INFINITY;
    this.#buckets.set(bucket, (this.#buckets.get(bucket) ?? 0) + 1);
  }

  quantile(q: number): number {
    let remaining = q * this.#measured;
    for (const [bucket, count] of [...this.#buckets].sort(([left], [right]) => left - right)) {
      remaining -= count;
      if (remaining <= 0) return Math.min(this.max, Math.exp(bucket * GROWTH));
    }
    return this.max;
  }
}
