import { once } from "./changes.ts";
import type { Fault } from "./fault.ts";

/** Faults in reading and writing. */
export const ofProperties: readonly Fault[] = [
  { name: "lacks the property", into: "reads", change: () => undefined },
  {
    name: "keeps the first value of the property",
    into: "reads",
    change: (next) => once(next, (first) => first),
  },
  { name: "makes the property a method", into: "reads", change: (next) => () => next },
  { name: "drops a written value", into: "writes", change: () => () => undefined },
];
