export { type Alike, within } from "./alike.ts";
export { type Check, type CheckResult, checksOf } from "./check.ts";
export {
  type CompareOptions,
  type Comparison,
  compare,
  comparisonText,
  type EqualityOptions,
} from "./compare.ts";
export type { CheckOptions } from "./context.ts";
export {
  type Contract,
  contract,
  type ErrorClass,
  type Example,
  type ExtendedContract,
  type Refusal,
  type ResultCheck,
  type Terms,
} from "./contract.ts";
export {
  type Coverage,
  type CoverageReport,
  coverageOf,
  coverageText,
  type MemberCoverage,
} from "./coverage.ts";
export { type FaultReport, type InjectedFault, type InjectOptions, injectFaults } from "./faults/inject.ts";
export { faultsText } from "./faults/text.ts";
export { FINDINGS, type Finding, type FindingName, findingText } from "./finding.ts";
export type { Factory, Given, Implementation, Implementations, Waived, Wrapper } from "./implementation.ts";
export { type AdapterOfOptions, adapterOf } from "./kinds/adapter.ts";
export { type BridgeOfOptions, type Bridging, bridgeOf } from "./kinds/bridge.ts";
export { cacheOf } from "./kinds/cache.ts";
export { decoratorOf, proxyOf, type SubjectOptions } from "./kinds/decorator.ts";
export { type FacadeOfOptions, facadeOf, type OperationTerms } from "./kinds/facade.ts";
export { type GuardOfOptions, guardOf } from "./kinds/guard.ts";
export { type StandInOptions, standInOf } from "./kinds/stand-in.ts";
export { always, behavesLike, type Law, law } from "./law.ts";
export { near, type Tolerance, type Unit } from "./near.ts";
export type { ArgumentsOf } from "./operations.ts";
export {
  type RecordedCall,
  type Recording,
  type RecordingDocument,
  readRecording,
  recordingOf,
  standInFrom,
} from "./recordings/recording.ts";
export {
  type CheckReport,
  type ConformanceReport,
  checkContract,
  conformanceText,
  type ImplementationReport,
} from "./report.ts";
export type { ValueSchema } from "./schema.ts";
export type {
  MemberDocument,
  ParameterDocument,
  SignatureDocument,
  SurfaceDocument,
} from "./surface-document.ts";
