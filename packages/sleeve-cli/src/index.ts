export type { Config } from "./project/config.ts";
