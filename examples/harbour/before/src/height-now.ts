import { FEET_PER_METRE, type GaugeFeed } from "@port-ellery/gauge-feed";
import { localTime } from "./local-time.ts";

/** Returns the height in metres, within a second. */
export function heightNow(feed: GaugeFeed, time: Date): Promise<number> {
  return new Promise((resolve, reject) => {
    const deadline = setTimeout(() => reject(new Error("gauge is silent")), 1000);
    feed.requestLevel(localTime(time), (error, reading) => {
      clearTimeout(deadline);
      if (error) reject(error);
      else if (reading) resolve(reading.level_ft / FEET_PER_METRE);
    });
  });
}
