import { GaugeFeed } from "@port-ellery/gauge-feed";

export function openFeed(): GaugeFeed {
  return new GaugeFeed("PE-1");
}
