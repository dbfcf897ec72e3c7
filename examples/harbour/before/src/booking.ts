import { BerthLedger } from "@port-ellery/berth-ledger";
import { XMLBuilder, XMLParser } from "fast-xml-parser";

const FORM = { ignoreAttributes: false, attributeNamePrefix: "", suppressEmptyNode: true };

export const ledger = new BerthLedger();

/** Books a berth for a length in metres, or returns the ledger's error number. */
export function book(vessel: string, metres: number): { ref: string; berth: number } | number {
  const xml: string = new XMLBuilder(FORM).build({ booking: { vessel, length_ft: String(metres / 0.3048) } });
  const answer = ledger.submit(xml);
  if (typeof answer === "number") return answer;
  const { booking } = new XMLParser(FORM).parse(answer);
  return { ref: booking.ref, berth: Number(booking.berth) };
}
