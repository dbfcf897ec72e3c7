import type { Sample } from "./timing.ts";

/** What is known of the calls of one member. Times are in milliseconds. */
export interface Tallied {
  readonly calls: number;
  /** How many of them threw or were rejected. */
  readonly failures: number;
  readonly sum: number;
  readonly most: number;
  /** The time within which this share of the calls was over, from 0 to 1; exact to 2 %. */
  quantile(share: number): number;
}

/** Counts samples by member, in a memory that does not grow with them. */
export interface Tally {
  /** Takes a sample; hand it to {@link timing} as its `to`. */
  readonly record: (sample: Sample) => void;
  /** What is known by now, by member. */
  members(): ReadonlyMap<string, Tallied>;
}

/**
 * Makes a tally of calls by member.
 *
 * @example
 * import { decorate, tally, timing } from "sleeve";
 *
 * const times = tally();
 * const office = decorate({ admit: (vessel: string) => vessel.length }, timing({ to: times.record }));
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

/** Each bucket is wider than the one before by this much, so that quantiles are exact to half of it. */
const GROWTH = Math.log(1.04);

class MemberTally implements Tallied {
  calls = 0;
  failures = 0;
  sum = 0;
  most = 0;
  readonly #buckets = new Map<number, number>();

  add({ status, milliseconds }: Sample): void {
    this.calls += 1;
    if (status === "threw" || status === "rejected") this.failures += 1;
    this.sum += milliseconds;
    this.most = Math.max(this.most, milliseconds);
    const bucket = milliseconds > 0 ? Math.round(Math.log(milliseconds) / GROWTH) : Number.NEGATIVE_INFINITY;
    this.#buckets.set(bucket, (this.#buckets.get(bucket) ?? 0) + 1);
  }

  quantile(share: number): number {
    let left = share * this.calls;
    for (const [bucket, count] of [...this.#buckets].sort(([one], [other]) => one - other)) {
      left -= count;
      if (left <= 0) return Math.min(this.most, Math.exp(bucket * GROWTH));
    }
    return this.most;
  }
}
