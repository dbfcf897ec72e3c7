export { checksOf } from "./checks/contract-checks.ts";
export { type CompareOptions, type Comparison, compare, comparisonText } from "./compare.ts";
export { contract } from "./contract.ts";
export {
  type Coverage,
  type CoverageReport,
  coverageOf,
  coverageText,
  type MemberCoverage,
} from "./coverage.ts";
export { fake } from "./fake.ts";
export { faultsText } from "./faults/faults-text.ts";
export { type FaultReport, type InjectedFault, type InjectOptions, injectFaults } from "./faults/inject.ts";
export { FINDINGS, type Finding, type FindingName, findingText } from "./finding.ts";
export { type AdapterOfOptions, adapterOf } from "./kinds/adapter/adapter.ts";
export { type BridgeHandle, type BridgeOfOptions, bridgeOf } from "./kinds/bridge.ts";
export { cacheOf } from "./kinds/cache.ts";
export { decoratorOf, proxyOf, type SubjectOptions } from "./kinds/decorator.ts";
export { facadeOf } from "./kinds/facade/facade.ts";
export type { FacadeOfOptions, OperationTerms } from "./kinds/facade/options.ts";
export { type GuardOfOptions, guardOf } from "./kinds/guard/guard.ts";
export { type StubOptions, stubOf } from "./kinds/stub.ts";
export { always, behavesLike, law } from "./law.ts";
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
export type { ArgumentsOf } from "./sequences/operations.ts";
export type {
  MemberDocument,
  ParameterDocument,
  SignatureDocument,
  SurfaceDocument,
} from "./surface-document.ts";
export { type TestClock, testClock } from "./test-clock.ts";
export { thrownBy } from "./thrown-by.ts";
export type {
  CheckOptions,
  CheckResult,
  Contract,
  ContractCheck,
  ContractTerms,
  EqualityOptions,
  ErrorClass,
  Example,
  ExpectedRefusal,
  ExtendedContract,
  Factory,
  Implementation,
  ImplementationInput,
  Implementations,
  Law,
  RecordedScenario,
  ResultCheck,
  Scenario,
  Suppressions,
  Wrapper,
} from "./types.ts";
export { closeTo, type Tolerance, type Unit } from "./values/close-to.ts";
export { type EqualityFunction, within } from "./values/equality.ts";
export type { ValueSchema } from "./values/schema.ts";
