import { GaugeFeed as Feed, type GaugeFeed, type LevelReading } from "@port-ellery/gauge-feed";
import { adapter, decorate, type WaitReport, waiting } from "sleeve";
import { type Metres, metres } from "./tide-table.ts";

/** The last height that the gauge sent, if any; it sends at irregular times. */
export interface LatestReading {
  latest(): Promise<Metres | undefined>;
  close(): void;
}

/** A gauge and its last reading. */
class Sent {
  readonly feed: GaugeFeed;
  last: LevelReading | undefined;

  constructor(feed: GaugeFeed) {
    this.feed = feed;
    feed.on("reading", (reading) => {
      this.last = reading;
    });
  }
}

const latestReading = adapter<LatestReading, Sent>(
  {
    latest: async ({ last }) => last && metres(last.level_ft * 0.3048),
    close: ({ feed }) => feed.shutdown(),
  },
  { name: "latestReading", owns: true },
);

/**
 * Requests the height at a local time, and waits until the reading is there.
 *
 * @param latency how late the gauge is, in milliseconds
 */
export function awaitedReading(
  localTime: string,
  latency: number,
  onWait: (waited: WaitReport) => void,
): LatestReading {
  const feed = new Feed("PE-1", { latency });
  const reading = latestReading(new Sent(feed));
  feed.requestLevel(localTime, () => {});
  const isThere = (height: Metres | undefined) => height !== undefined;
  return decorate(
    reading,
    waiting({ only: ["latest"], until: isThere, interval: "5ms", timeout: "2s", onWait }),
  );
}
