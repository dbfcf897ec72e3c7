import { type BerthLedger, BerthLedger as Ledger } from "@port-ellery/berth-ledger";
import { XMLBuilder, XMLParser } from "fast-xml-parser";
import { adapter, fromErrorNumber } from "sleeve";
import { type Metres, metres } from "../tides/tide-table.ts";
import { type Berths, LedgerBroken, NoBerth } from "./berths.ts";

/** Adapts the ledger of the office, which uses XML and error numbers. */
export const ledgerBerths = adapter<Berths, BerthLedger>(
  {
    all: (ledger) => {
      const { berths } = read<{ berths: { berth: BerthElement[] } }>(checked(ledger.sheet()));
      return berths.berth.map(({ no, length_ft, vessel }) => ({
        number: Number(no),
        length: metres(Number(length_ft) * 0.3048),
        vessel,
      }));
    },
    book: (ledger, vessel, length) => {
      const form = { booking: { vessel, length_ft: inFeet(length) } };
      const { booking } = read<{ booking: BookingElement }>(checked(ledger.submit(builder.build(form))));
      return { reference: booking.ref, berth: Number(booking.berth) };
    },
    cancel: (ledger, reference) => {
      checked(ledger.strike(reference));
    },
    close: "shut",
  },
  {
    name: "ledgerBerths",
    owns: true,
    errors: (cause) => new LedgerBroken("The ledger cannot be read.", { cause }),
    allowed: [NoBerth, LedgerBroken],
  },
);

/** Opens the office's ledger and adapts it. */
export function openBerths(): Berths {
  const ledger = new Ledger();
  checked(ledger.open());
  return ledgerBerths(ledger);
}

interface BerthElement {
  readonly no: string;
  readonly length_ft: string;
  readonly vessel?: string;
}

interface BookingElement {
  readonly ref: string;
  readonly berth: string;
}

const FORM = { ignoreAttributes: false, attributeNamePrefix: "", suppressEmptyNode: true };
const parser = new XMLParser(FORM);
const builder = new XMLBuilder(FORM);

function read<Shape>(xml: string): Shape {
  // The XML of the ledger has the types above; error numbers were handled before.
  return parser.parse(xml) as Shape;
}

function checked<Answer>(answer: Answer): Exclude<Answer, number> {
  const passed = fromErrorNumber(answer, {
    [-1]: () => new LedgerBroken("The ledger did not understand the booking."),
    [-2]: () => new NoBerth("No berth is long enough."),
    [-3]: () => new NoBerth("Every berth that is long enough is taken."),
    [-4]: () => new NoBerth("There is no such booking."),
    [-9]: () => new LedgerBroken("The ledger is not open."),
  });
  // The table contains all error numbers, and 0 has no text.
  return passed as Exclude<Answer, number>;
}

function inFeet(length: Metres): string {
  return String(length / 0.3048);
}
