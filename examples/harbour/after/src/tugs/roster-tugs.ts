import { TugRoster as Roster, type TugRoster } from "@port-ellery/tug-roster";
import { adapter } from "sleeve";
import { NoTugs, type Tugs } from "./tugs.ts";

/** Adapts the roster of the day, which throws strings. */
export const rosterTugs = adapter<Tugs, TugRoster>(
  { send: "sendTo", recall: "recall" },
  { name: "rosterTugs", errors: (reason) => new NoTugs(String(reason)) },
);

/** The tugs of today. */
export function tugsOfToday(): Tugs {
  return rosterTugs(new Roster());
}
