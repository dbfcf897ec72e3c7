import { ofArguments } from "./argument-faults.ts";
import { ofFailures } from "./failure-faults.ts";
import type { Fault } from "./fault.ts";
import { ofMember } from "./method-faults.ts";
import { ofProperties } from "./property-faults.ts";
import { ofAnswers } from "./result-faults.ts";
import { ofTime } from "./timing-faults.ts";

/** All faults that can be injected into a wrapper. */
export const FAULTS: readonly Fault[] = [
  ...ofMember,
  ...ofArguments,
  ...ofAnswers,
  ...ofTime,
  ...ofFailures,
  ...ofProperties,
];
