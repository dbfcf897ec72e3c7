// Everything about the gauge, for the rest of the office.
export { FeedError, GaugeFeed } from "@port-ellery/gauge-feed";
export type { LevelReading } from "@port-ellery/gauge-feed";
export { default as formatLevel } from "@port-ellery/gauge-feed";
