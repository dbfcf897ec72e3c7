import type { Fault } from "./fault.ts";
import { ofAnswers } from "./of-answers.ts";
import { ofArguments } from "./of-arguments.ts";
import { ofFailures } from "./of-failures.ts";
import { ofMember } from "./of-member.ts";
import { ofProperties } from "./of-properties.ts";
import { ofTime } from "./of-time.ts";

/** All faults that can be injected into a wrapper. */
export const FAULTS: readonly Fault[] = [
  ...ofMember,
  ...ofArguments,
  ...ofAnswers,
  ...ofTime,
  ...ofFailures,
  ...ofProperties,
];
