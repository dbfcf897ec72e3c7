import { once } from "./changes.ts";
import type { Fault } from "./fault.ts";

/** Faults of reading and writing. */
export const ofProperties: readonly Fault[] = [
  { name: "the property is missing", into: "reads", change: () => undefined },
  {
    name: "the property keeps its first value",
    into: "reads",
    change: (next) => once(next, (first) => first),
  },
  { name: "the property is a method", into: "reads", change: (next) => () => next },
  { name: "what is written is dropped", into: "writes", change: () => () => undefined },
];
