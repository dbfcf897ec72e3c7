/**
 * What generated wrappers import: the state that they share with wrappers at run time.
 *
 * @packageDocumentation
 */
export { CallLog, type CallLogOptions, type LoggedCall } from "./layers/call-log.ts";
export { hasSecretName, REDACTED } from "./layers/secrets.ts";
export { argumentsKey } from "./shared/arguments-key.ts";
