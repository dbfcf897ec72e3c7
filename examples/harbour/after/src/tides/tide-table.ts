/** A length in metres. Only {@link metres} makes one, so feet cannot pass for it. */
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

/** What the office needs to know of the tide. Heights are above chart datum. */
export interface TideTable {
  readonly port: string;
  /** @throws {TidesUnavailable} where no tide is known for that time */
  heightAt(time: Date): Promise<Metres>;
  /** The turns of the tide on the UTC day that the time falls on, in order. */
  tidesOn(day: Date): Promise<readonly Tide[]>;
  /** Releases the source of the tides. Idempotent. */
  close(): void;
}

/** No tide is to be had: the time is not covered, or what the tides come from does not answer. */
export class TidesUnavailable extends Error {
  override readonly name = "TidesUnavailable";
}
