/** A length in metres. Only {@link metres} creates one, so feet are not assignable. */
export type Metres = number & { readonly unit: "metres" };

export function metres(value: number): Metres {
  return value as Metres;
}

/** One turn of the tide. */
export interface Tide {
  readonly kind: "high" | "low";
  readonly at: Date;
  readonly height: Metres;
}

/** The tide, as the office needs it. Heights are above chart datum. */
export interface TideTable {
  readonly port: string;
  /** @throws {TidesUnavailable} (rejects) if the time is not covered */
  heightAt(time: Date): Promise<Metres>;
  /** Returns the turns of the tide on the UTC day of a time, in order. */
  tidesOn(day: Date): Promise<readonly Tide[]>;
  /** Releases the source of the tides. Idempotent. */
  close(): void;
}

/** The time is not covered, or the source of the tides does not answer. */
export class TidesUnavailable extends Error {
  override readonly name = "TidesUnavailable";
}
