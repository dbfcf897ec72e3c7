import { GaugeFeed as Feed, type FeedError, type GaugeFeed, type TurnReading } from "@port-ellery/gauge-feed";
import { adapter } from "sleeve";
import { type Metres, metres, type Tide, TidesUnavailable, type TideTable } from "./tide-table.ts";

/** Adapts the gauge on the pier head. */
export const gaugeTides = adapter<TideTable, GaugeFeed>(
  {
    port: "stationName",
    heightAt: async (feed, time) => {
      const reading = await answerOf<{ level_ft: number }>((callback) =>
        feed.requestLevel(localTime(time), callback),
      );
      return fromFeet(reading.level_ft);
    },
    tidesOn: async (feed, day) => {
      // A UTC day begins in one local day and ends in the next.
      const days = [day, new Date(day.getTime() + DAY)].map((date) =>
        localTime(startOfDay(date)).slice(0, 10),
      );
      const turns = await Promise.all(
        days.map((local) => answerOf<TurnReading[]>((callback) => feed.requestTurns(local, callback))),
      );
      return turns
        .flat()
        .map(tideOf)
        .filter(({ at }) => startOfDay(at).getTime() === startOfDay(day).getTime());
    },
    close: "shutdown",
  },
  {
    name: "gaugeTides",
    owns: true,
    errors: (error) =>
      error instanceof TidesUnavailable
        ? error
        : new TidesUnavailable("The gauge has no reading.", { cause: error }),
  },
);

/** Connects to the gauge of a station and adapts it. */
export function connectGaugeTides(station: string): TideTable {
  return gaugeTides(new Feed(station));
}

const DAY = 86_400_000;
const LOCAL_AHEAD = 3_600_000;
const DEADLINE = 1000;

/** The gauge calls back once, late, or not at all. Waits for a second. */
function answerOf<Answer>(
  request: (callback: (error: FeedError | null, answer?: Answer) => void) => unknown,
): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const deadline = setTimeout(() => reject(new TidesUnavailable("The gauge is silent.")), DEADLINE);
    request((error, answer) => {
      clearTimeout(deadline);
      if (error || answer === undefined) reject(error ?? new TidesUnavailable("The gauge answered nothing."));
      else resolve(answer);
    });
  });
}

function tideOf({ kind, level_ft, taken }: TurnReading): Tide {
  return { kind: kind === "HW" ? "high" : "low", at: fromLocalTime(taken), height: fromFeet(level_ft) };
}

function fromFeet(feet: number): Metres {
  return metres(feet * 0.3048);
}

/** The gauge writes times as `2026-11-24 14:05`, an hour ahead of UTC all year round. */
function localTime(time: Date): string {
  if (Number.isNaN(time.getTime())) throw new TidesUnavailable("An invalid date has no tide.");
  return new Date(time.getTime() + LOCAL_AHEAD).toISOString().slice(0, 16).replace("T", " ");
}

function fromLocalTime(local: string): Date {
  return new Date(Date.parse(`${local.replace(" ", "T")}Z`) - LOCAL_AHEAD);
}

function startOfDay(time: Date): Date {
  return new Date(Math.floor(time.getTime() / DAY) * DAY);
}
