import type { Metres, TideTable } from "./tides/tide-table.ts";

const STEP = 600_000;

/** Returns the times with enough water over the bar, in steps of ten minutes. */
export async function entryWindows(
  tides: TideTable,
  from: Date,
  to: Date,
  needed: Metres,
): Promise<readonly { readonly from: Date; readonly to: Date }[]> {
  const steps = Math.floor((to.getTime() - from.getTime()) / STEP) + 1;
  const times = Array.from({ length: steps }, (_, index) => new Date(from.getTime() + index * STEP));
  const heights = await Promise.all(times.map((time) => tides.heightAt(time)));
  const windows: { from: Date; to: Date }[] = [];
  let open: Date | undefined;
  times.forEach((time, index) => {
    const isDeep = (heights[index] as Metres) >= needed;
    if (isDeep) open ??= time;
    if (open && (!isDeep || index === times.length - 1)) {
      windows.push({ from: open, to: time });
      open = undefined;
    }
  });
  return windows;
}
