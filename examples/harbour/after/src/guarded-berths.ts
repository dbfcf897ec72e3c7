import { type AccessRequest, access, between, guard, proxy } from "sleeve";
import type { Berths } from "./berths/berths.ts";
import { openBerths } from "./berths/ledger-berths.ts";
import { berthsSurface } from "./generated/berths-surface.ts";

/** A user of the desk, and the permissions of that user. */
export interface Session {
  readonly name: string;
  readonly may: (request: AccessRequest) => boolean;
}

/** A visitor may list the berths; the harbour master may do everything. */
export const visitor: Session = { name: "a visitor", may: ({ member }) => member === "all" };
export const master: Session = { name: "the harbour master", may: () => true };

/**
 * Creates the berths of one session. The ledger is opened at the first allowed use, and a denied call never
 * reaches it.
 */
export function guardedBerths({ may }: Session, open: () => Berths = openBerths): Berths {
  return proxy<Berths>(open, {
    surface: berthsSurface,
    layers: [access(may), guard<Berths>({ book: [isNamed, between(1, 400)], cancel: [isNamed] })],
  });
}

function isNamed(name: string): boolean {
  return name.trim() !== "";
}
