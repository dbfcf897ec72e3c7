import sumAt, { loadStation } from "@port-ellery/tide-sums";
import { minuteOf, timeOf } from "./minutes.ts";

const STEP = 10;

/** Returns the times with enough water over the bar. */
export function entryWindows(from: Date, to: Date, needed: number): { from: Date; to: Date }[] {
  const station = loadStation("PE-1");
  const windows: { from: Date; to: Date }[] = [];
  let open: number | undefined;
  for (let minute = minuteOf(from); minute <= minuteOf(to); minute += STEP) {
    const isDeep = sumAt(station, minute) / 100 >= needed;
    if (isDeep) open ??= minute;
    if (open !== undefined && (!isDeep || minute + STEP > minuteOf(to))) {
      windows.push({ from: timeOf(open), to: timeOf(minute) });
      open = undefined;
    }
  }
  return windows;
}
