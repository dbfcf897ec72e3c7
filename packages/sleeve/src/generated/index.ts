/**
 * What generated wrappers import: the same cores of the layers that wrappers at run time have, without an engine.
 *
 * @packageDocumentation
 */
export { AccessCheck, type AccessRequest } from "../layers/core/access-check.ts";
export { CallLimits, type CallLimitsOptions } from "../layers/core/call-limits.ts";
export { CallLog, type CallLogOptions, type LoggedCall } from "../layers/core/call-log.ts";
export { CallTimer, type CallTimerOptions, type Sample } from "../layers/core/call-timer.ts";
export { ResultCache, type ResultCacheOptions } from "../layers/core/result-cache.ts";
export { Retries, type RetriesOptions } from "../layers/core/retries.ts";
export { hasSecretName, REDACTED } from "../layers/core/secrets.ts";
export {
  type CheckLists,
  checkLists,
  notAllowed,
  requireAllowed,
  type ValueCheck,
} from "../layers/core/value-checks.ts";
export { type Outcome, observe } from "../shared/outcome.ts";
export { OwnFunctions } from "./own-functions.ts";
export { undoSteps, undoStepsNow } from "./undo-steps.ts";
