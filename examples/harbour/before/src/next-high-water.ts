import type { Turn } from "@port-ellery/tide-sums";
import { minuteOf, timeOf } from "./minutes.ts";

export async function nextHighWater(after: Date): Promise<{ at: Date; metres: number } | undefined> {
  const { loadStation, turnsBetween } = await import("@port-ellery/tide-sums");
  const from = minuteOf(after);
  const turns: Turn[] = turnsBetween(loadStation("PE-1"), from, from + 1440);
  const turn = turns.find(({ high }) => high);
  return turn && { at: timeOf(turn.minute), metres: turn.level / 100 };
}
