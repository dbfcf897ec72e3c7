import { GaugeFeed } from "@port-ellery/gauge-feed";
import { MastLights } from "@port-ellery/mast-lights";
import quayPost from "@port-ellery/quay-post";
import { TugRoster } from "@port-ellery/tug-roster";
import { speak } from "@port-ellery/vhf-desk";
import { book, ledger } from "./booking.ts";
import { heightNow } from "./height-now.ts";

export interface Visit {
  readonly vessel: string;
  readonly draught: number;
  readonly length: number;
  readonly tons: number;
  readonly at: Date;
}

export const roster = new TugRoster();
const mast = new MastLights();

/** Admits a vessel: tide, berth, tugs and notice, in this order, with hand-written undo. */
export async function admit(visit: Visit, channel: "vhf" | "lights" | "post"): Promise<string> {
  const feed = new GaugeFeed("PE-1");
  ledger.open();
  const height = await heightNow(feed, visit.at);
  feed.shutdown();
  if (height < visit.draught + 0.5 - 2.1) return "refused: there is too little water over the bar";
  const booking = book(visit.vessel, visit.length);
  if (booking === -2) return "refused: no berth is long enough";
  if (booking === -3) return "refused: every berth that is long enough is taken";
  if (typeof booking === "number") throw new Error(`the ledger said ${booking}`);
  let tugs: string[];
  try {
    tugs = roster.sendTo(visit.vessel, visit.tons);
  } catch (reason) {
    ledger.strike(booking.ref);
    return `refused: ${reason}`;
  }
  const text = `${visit.vessel} to berth ${booking.berth}`;
  try {
    if (channel === "vhf") {
      await new Promise<void>((resolve, reject) =>
        speak(12, text.split(" "), (error) => (error ? reject(error) : resolve())),
      );
    } else if (channel === "lights") {
      if (!mast.hoist("G".repeat(Math.min(3, booking.berth)))) throw new Error("the mast has no such lights");
    } else await quayPost.pinUp({ Heading: "Arrivals", Body: text });
  } catch (error) {
    roster.recall(visit.vessel);
    ledger.strike(booking.ref);
    throw error;
  }
  return `berth ${booking.berth}, ${tugs.length > 0 ? `tugs ${tugs.join(" and ")}` : "no tugs"}, announced by ${channel}`;
}
