import type { Metres } from "../tides/tide-table.ts";

/** One berth of the harbour, and its vessel. */
export interface Berth {
  readonly number: number;
  readonly length: Metres;
  readonly vessel: string | undefined;
}

/** A berth that is booked for a vessel. */
export interface Booking {
  readonly reference: string;
  readonly berth: number;
}

/** The berths, as the office needs them. */
export interface Berths {
  all(): readonly Berth[];
  /** @throws {NoBerth} if no berth is long enough, or all that are have been booked */
  book(vessel: string, length: Metres): Booking;
  /** @throws {NoBerth} for an unknown booking */
  cancel(reference: string): void;
  close(): void;
}

/** No berth is available, or the booking is unknown. */
export class NoBerth extends Error {
  override readonly name = "NoBerth";
}

/** The ledger of the berths cannot be read, or rejected a request. */
export class LedgerBroken extends Error {
  override readonly name = "LedgerBroken";
}
