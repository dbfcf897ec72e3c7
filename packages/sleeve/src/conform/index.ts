export type { CheckOptions } from "./check.ts";
export {
  type Contract,
  contract,
  type ErrorClass,
  type Example,
  type Law,
  law,
  type Refusal,
} from "./contract.ts";
export { type Finding, type FindingName, findingText } from "./finding.ts";
export type { Implementation, Implementations } from "./implementation.ts";
export { near, type Tolerance, type Unit } from "./near.ts";
export { type ConformanceReport, checkContract, type ImplementationReport } from "./report.ts";
