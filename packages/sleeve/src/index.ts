export type { Call, ForwardingMode, Layer, Next } from "./forward/call.ts";
export { withArguments } from "./forward/call-arguments.ts";
export { type AccessOptions, access } from "./layers/access.ts";
export type { AsyncMembers, AsyncMembersOptions } from "./layers/async-members.ts";
export { type CachedOptions, cached, type SharedOptions } from "./layers/cache/cached.ts";
export type { Store } from "./layers/cache/shared-results.ts";
export type { AccessRequest } from "./layers/core/access-check.ts";
export type { LogEntry, Logger } from "./layers/core/call-log.ts";
export type { Sample } from "./layers/core/call-timer.ts";
export type { Redaction } from "./layers/core/redact.ts";
export type {
  ArgumentCheck,
  DescribedCheck,
  StandardSchema,
  ValueCheck,
} from "./layers/core/value-checks.ts";
export type { Watch, WatchHooks } from "./layers/core/watch.ts";
export { deep, open } from "./layers/forwarding.ts";
export { between, type GuardOptions, type GuardRules, guard } from "./layers/guard.ts";
export {
  type Behaviour,
  type LayerOptions,
  layer,
  type Only,
  type Traits,
} from "./layers/layer.ts";
export { type LimitedOptions, limited } from "./layers/limited.ts";
export { type LoggingOptions, logging } from "./layers/logging.ts";
export { type Recorded, type RecordedOptions, recorded, stub } from "./layers/recorded.ts";
export { type RetryingOptions, retrying } from "./layers/retrying.ts";
export { type MemberStats, type Tally, tally } from "./layers/tally.ts";
export { type TimingOptions, timing, userTiming } from "./layers/timing.ts";
export { NeverSatisfied, type WaitingOptions, type WaitReport, waiting } from "./layers/waiting.ts";
export type { Signal } from "./shared/cancellation.ts";
export type { Clock } from "./shared/clock.ts";
export { SleeveError, type SleeveErrorCode } from "./shared/errors.ts";
export type { Duration } from "./shared/options.ts";
export type { Outcome } from "./shared/outcome.ts";
export { RELEASE_NAMES } from "./shared/release-names.ts";
export type { Use } from "./shared/use.ts";
export type { Member } from "./surface/member.ts";
export type { Surface } from "./surface/surface.ts";
export { type Callback, fromCallback } from "./translate/from-callback.ts";
export { type ErrorNumbers, fromErrorNumber } from "./translate/from-error-number.ts";
export { type Emitter, type EventNames, type EventOptions, fromEvents } from "./translate/from-events.ts";
export { type Adapter, type AdapterOptions, adapter } from "./wrappers/adapter/adapter.ts";
export {
  type ClassMapping,
  classAdapter,
  type InheritingMapping,
  inheritingAdapter,
} from "./wrappers/adapter/class-adapter.ts";
export type { Mapping } from "./wrappers/adapter/mapping.ts";
export type { ErrorTranslation } from "./wrappers/adapter/translating-errors.ts";
export { type TwoWay, type TwoWayOptions, twoWay } from "./wrappers/adapter/two-way.ts";
export { type Bridge, type BridgeImplementation, type BridgeOptions, bridge } from "./wrappers/bridge.ts";
export { decorate } from "./wrappers/decorate.ts";
export { decorateClass, type Layered } from "./wrappers/decorate-class.ts";
export { type DecoratorContext, decorated } from "./wrappers/decorated.ts";
export {
  type ExplainedConflict,
  type ExplainedMember,
  type Explanation,
  explain,
} from "./wrappers/explain.ts";
export { type Facade, type FacadeMember, type FacadeOptions, facade } from "./wrappers/facade/facade.ts";
export type { Progress } from "./wrappers/facade/operation.ts";
export {
  type CallOptions,
  type NotUndone,
  type Operation,
  Refusal,
  refuse,
  type StepContext,
  type Undoable,
  undoable,
} from "./wrappers/facade/operation.ts";
export { OperationFailed } from "./wrappers/facade/run-operation.ts";
export { inContext } from "./wrappers/in-context.ts";
export { override } from "./wrappers/override.ts";
export { type ClassOf, type Deferred, ProxyControl, type ProxyOptions, proxy } from "./wrappers/proxy.ts";
export { stack } from "./wrappers/stack.ts";
