export { SleeveError, type SleeveErrorCode } from "./errors.ts";
export type { Call, Layer, Next, Use } from "./forward/call.ts";
export { deep, open } from "./layers/forwarding.ts";
export {
  type Behaviour,
  type LayerOptions,
  layer,
  type Only,
  type Traits,
  type Watch,
  type Watching,
} from "./layers/layer.ts";
export { type LogEntry, type Logger, type LoggingOptions, logging } from "./layers/logging.ts";
export type { Outcome } from "./layers/outcome.ts";
export { type Sample, type TimingOptions, timing } from "./layers/timing.ts";
export type { Member } from "./surface/member.ts";
export { type Adapter, type AdapterOptions, adapter } from "./wrappers/adapter.ts";
export { decorate, type Layered } from "./wrappers/decorate.ts";
export type { Mapping } from "./wrappers/mapping.ts";
export { stack } from "./wrappers/stack.ts";
