import formatLevel, { type LevelReading } from "@port-ellery/gauge-feed";
import { turnsOn } from "./tide-board.cts";

/** The day's turns as the board in the office shows them, and the last reading below. */
export function printTides(day: Date, last?: LevelReading): string {
  const turns = turnsOn(day).map(
    ({ high, level }) => `${high ? "high" : "low"} ${(level / 100).toFixed(1)} m`,
  );
  return [...turns, last ? formatLevel(last) : "no reading"].join("\n");
}
