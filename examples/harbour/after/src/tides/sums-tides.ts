import sumAt, { loadStation, type Station, toMinute, turnsBetween } from "@port-ellery/tide-sums";
import { adapter } from "sleeve";
import { metres, type Tide, TidesUnavailable, type TideTable } from "./tide-table.ts";

/** The tide computed from harmonic constituents, without a gauge. */
export const sumsTides = adapter<TideTable, Station>(
  {
    port: "name",
    heightAt: async (station, time) => metres(sumAt(station, toMinute(time)) / 100),
    tidesOn: async (station, day) => {
      const start = toMinute(new Date(Math.floor(day.getTime() / DAY) * DAY));
      return turnsBetween(station, start, start + 1440).map(
        ({ minute, level, high }): Tide => ({
          kind: high ? "high" : "low",
          at: new Date(EPOCH + minute * 60_000),
          height: metres(level / 100),
        }),
      );
    },
    close: () => {},
  },
  {
    name: "sumsTides",
    errors: (error) => new TidesUnavailable("No tide can be computed for that time.", { cause: error }),
  },
);

/** Loads the constituents of a station and adapts them. */
export function loadSumsTides(station: string): TideTable {
  return sumsTides(loadStation(station));
}

const DAY = 86_400_000;
const EPOCH = Date.UTC(2000, 0, 1);
