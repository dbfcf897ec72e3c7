export type { FindingName, Level } from "./findings.ts";
export type { Accepted, Config, Levels, Settings } from "./project/config.ts";
