import * as sums from "@port-ellery/tide-sums";

export const minuteOf = (time: Date) => sums.toMinute(time);

export function timeOf(minute: number): Date {
  return new Date(Date.UTC(2000, 0, 1) + minute * 60_000);
}
