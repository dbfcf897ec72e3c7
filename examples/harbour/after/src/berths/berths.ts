import type { Metres } from "../tides/tide-table.ts";

/** One berth of the harbour, and who lies there. */
export interface Berth {
  readonly number: number;
  readonly length: Metres;
  readonly vessel: string | undefined;
}

/** A berth that is kept for a vessel. */
export interface Booking {
  readonly reference: string;
  readonly berth: number;
}

/** What the office needs to know of its berths. */
export interface Berths {
  all(): readonly Berth[];
  /** @throws {NoBerth} where none is long enough, or all that are have been taken */
  book(vessel: string, length: Metres): Booking;
  /** @throws {NoBerth} where there is no such booking */
  cancel(reference: string): void;
  close(): void;
}

/** There is no berth to be had, or no such booking. */
export class NoBerth extends Error {
  override readonly name = "NoBerth";
}

/** The ledger of the berths cannot be read, or did not understand. */
export class LedgerBroken extends Error {
  override readonly name = "LedgerBroken";
}
