import { entryWindows } from "./entry-windows.ts";
import { type Metres, metres, type TideTable } from "./tides/tide-table.ts";

/** The answer to a vessel that wants to enter. */
export interface Answer {
  readonly vessel: string;
  readonly mayEnterNow: boolean;
  readonly height: Metres;
  readonly windows: readonly { readonly from: Date; readonly to: Date }[];
  readonly highWater: Date | undefined;
}

const BAR = 2.1;
const CLEARANCE = 0.5;
const DAY = 86_400_000;

/** May a vessel of this draught enter: now, and when until this time tomorrow? */
export async function mayEnter(
  tides: TideTable,
  vessel: string,
  draught: Metres,
  now: Date,
): Promise<Answer> {
  const needed = metres(draught + CLEARANCE - BAR);
  const tomorrow = new Date(now.getTime() + DAY);
  const [height, windows, ...days] = await Promise.all([
    tides.heightAt(now),
    entryWindows(tides, now, tomorrow, needed),
    tides.tidesOn(now),
    tides.tidesOn(tomorrow),
  ]);
  const highWater = days.flat().find(({ kind, at }) => kind === "high" && at >= now)?.at;
  return { vessel, mayEnterNow: height >= needed, height, windows, highWater };
}
