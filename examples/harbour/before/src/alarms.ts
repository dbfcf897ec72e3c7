import { FeedError, formatLevel, type GaugeFeed, type LevelReading } from "./gauge.ts";

export const LOW_FEET = 5;

/** Sounds an alarm for each low reading. */
export const ringWhenLow = (feed: GaugeFeed, ring: (text: string) => void) =>
  feed.on("reading", (reading: LevelReading) => {
    if (reading.level_ft < LOW_FEET) ring(formatLevel(reading));
  });

export function isOutOfRange(error: unknown): boolean {
  return error instanceof FeedError && error.status === 416;
}
