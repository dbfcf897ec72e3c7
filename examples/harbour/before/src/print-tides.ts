import formatLevel, { type LevelReading } from "@port-ellery/gauge-feed";
import { turnsOn } from "./tide-board.cts";

/** Formats the turns of the day for the board in the office, with the last reading. */
export function printTides(day: Date, last?: LevelReading): string {
  const turns = turnsOn(day).map(
    ({ high, level }) => `${high ? "high" : "low"} ${(level / 100).toFixed(1)} m`,
  );
  return [...turns, last ? formatLevel(last) : "no reading"].join("\n");
}
