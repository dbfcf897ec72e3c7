export { type EqualityFunction, within } from "./alike.ts";
export { type CheckResult, type ContractCheck, checksOf } from "./check.ts";
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
  type ContractTerms,
  contract,
  type ErrorClass,
  type Example,
  type ExpectedRefusal,
  type ExtendedContract,
  type ResultCheck,
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
export type {
  Factory,
  Implementation,
  ImplementationInput,
  Implementations,
  Suppressions,
  Wrapper,
} from "./implementation.ts";
export { type AdapterOfOptions, adapterOf } from "./kinds/adapter.ts";
export { type BridgeHandle, type BridgeOfOptions, bridgeOf } from "./kinds/bridge.ts";
export { cacheOf } from "./kinds/cache.ts";
export { decoratorOf, proxyOf, type SubjectOptions } from "./kinds/decorator.ts";
export { type FacadeOfOptions, facadeOf, type OperationTerms } from "./kinds/facade.ts";
export { type GuardOfOptions, guardOf } from "./kinds/guard.ts";
export { type StubOptions, stubOf } from "./kinds/stand-in.ts";
export { always, behavesLike, type Law, law } from "./law.ts";
export { closeTo, type Tolerance, type Unit } from "./near.ts";
export type { ArgumentsOf } from "./operations.ts";
export {
  type RecordedCall,
  type Recording,
  type RecordingDocument,
  readRecording,
  recordingOf,
  stubFrom,
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
