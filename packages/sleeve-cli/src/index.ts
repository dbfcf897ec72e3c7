export type { CheckFindingName, Severity } from "./findings.ts";
export type { Config, Settings, Severities, Suppression } from "./project/config.ts";
