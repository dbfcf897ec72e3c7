// Functions around the gauge, for the rest of the office.

export type { LevelReading } from "@port-ellery/gauge-feed";
export { default as formatLevel, FeedError, GaugeFeed } from "@port-ellery/gauge-feed";
