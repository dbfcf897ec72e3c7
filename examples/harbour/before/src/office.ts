import { isOutOfRange, ringWhenLow } from "./alarms.ts";
import { entryWindows } from "./entry-windows.ts";
import { heightNow } from "./height-now.ts";
import { nextHighWater } from "./next-high-water.ts";
import { openFeed } from "./open-feed.ts";

/** The answer to a vessel that wants to enter. Heights in metres above chart datum. */
export interface Answer {
  readonly vessel: string;
  readonly mayEnterNow: boolean;
  readonly height: number;
  readonly windows: readonly { readonly from: Date; readonly to: Date }[];
  readonly highWater: Date | undefined;
}

const BAR = 2.1;
const CLEARANCE = 0.5;

/** May a vessel of this draught, in metres, enter: now, and when until this time tomorrow? */
export async function mayEnter(vessel: string, draught: number, now: Date): Promise<Answer> {
  const feed = openFeed();
  const needed = draught + CLEARANCE - BAR;
  try {
    ringWhenLow(feed, (text) => console.warn(`low water: ${text}`));
    const height = await heightNow(feed, now);
    const tomorrow = new Date(now.getTime() + 86_400_000);
    return {
      vessel,
      mayEnterNow: height >= needed,
      height,
      windows: entryWindows(now, tomorrow, needed),
      highWater: (await nextHighWater(now))?.at,
    };
  } catch (error) {
    if (isOutOfRange(error)) throw new Error("no tide is known for that time", { cause: error });
    throw error;
  } finally {
    feed.shutdown();
  }
}
