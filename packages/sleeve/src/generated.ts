/**
 * What generated wrappers import: the state that they share with wrappers at run time.
 *
 * @packageDocumentation
 */
export { CallLog, type CallLogOptions, type LoggedCall } from "./layers/logging/call-log.ts";
export { hasSecretName, REDACTED } from "./layers/logging/secrets.ts";
export { argumentsKey } from "./shared/arguments-key.ts";
