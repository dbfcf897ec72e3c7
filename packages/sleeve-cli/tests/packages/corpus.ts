import { sampled } from "../harness.ts";

/** A package that a consumer in `fixtures/packages/consumers` uses, and how well it is drafted. */
export interface CorpusPackage {
  readonly name: string;
  /** The consumer's file, without its ending. */
  readonly consumer: string;
  /** Number of options at the start of the file that move to the adapter with the set-up of the package. Default: 0. */
  readonly optionsInSetUp?: number;
  /** Number of used members that are independent of the package, that depend on it, and that are re-exported. */
  readonly members: readonly [independent: number, dependent: number, reexported: number];
}

export const CORPUS: readonly CorpusPackage[] = [
  { name: "awilix", consumer: "services/awilix", members: [14, 0, 0] },
  { name: "axios", consumer: "web/axios", members: [10, 0, 0] },
  { name: "bignumber.js", consumer: "values/bignumber.js", members: [19, 0, 0] },
  { name: "commander", consumer: "services/commander", members: [24, 0, 0] },
  { name: "csv-parse", consumer: "text/csv-parse", members: [10, 0, 0] },
  { name: "dayjs", consumer: "values/dayjs", members: [17, 0, 0] },
  { name: "debug", consumer: "services/debug", members: [9, 0, 0] },
  { name: "decimal.js", consumer: "values/decimal.js", members: [17, 0, 0], optionsInSetUp: 2 },
  { name: "ejs", consumer: "text/ejs", members: [3, 0, 0] },
  { name: "fast-glob", consumer: "storage/fast-glob", members: [2, 1, 0] },
  { name: "fast-xml-parser", consumer: "text/fast-xml-parser", members: [6, 0, 0] },
  { name: "fastq", consumer: "services/fastq", members: [11, 0, 0] },
  { name: "fs-extra", consumer: "storage/fs-extra", members: [13, 0, 0] },
  { name: "handlebars", consumer: "text/handlebars", members: [7, 1, 0] },
  { name: "hono", consumer: "web/hono", members: [2, 15, 0] },
  { name: "immer", consumer: "data/immer", members: [6, 2, 0] },
  { name: "inversify", consumer: "services/inversify", members: [9, 0, 0] },
  { name: "jsonwebtoken", consumer: "values/jsonwebtoken", members: [10, 0, 0] },
  { name: "keyv", consumer: "storage/keyv", members: [8, 0, 0] },
  { name: "koa", consumer: "web/koa", members: [9, 0, 0] },
  { name: "lodash", consumer: "data/lodash", members: [18, 0, 0] },
  { name: "luxon", consumer: "values/luxon", members: [16, 0, 0] },
  { name: "memfs", consumer: "storage/memfs", members: [15, 0, 0] },
  { name: "memory-level", consumer: "storage/memory-level", members: [8, 3, 0] },
  { name: "@noble/hashes", consumer: "values/noble-hashes", members: [10, 3, 0] },
  { name: "papaparse", consumer: "text/papaparse", members: [10, 0, 0] },
  { name: "pino", consumer: "services/pino", members: [12, 0, 0] },
  { name: "qs", consumer: "web/qs", members: [2, 0, 0] },
  { name: "ramda", consumer: "data/ramda", members: [16, 2, 0] },
  { name: "redux", consumer: "data/redux", members: [7, 0, 0] },
  { name: "rxjs", consumer: "data/rxjs", members: [23, 0, 0] },
  { name: "semver", consumer: "values/semver", members: [17, 0, 0] },
  { name: "sql.js", consumer: "storage/sql.js", members: [14, 0, 0] },
  { name: "superstruct", consumer: "data/superstruct", members: [14, 0, 0] },
  { name: "tweetnacl", consumer: "values/tweetnacl", members: [18, 0, 0] },
  { name: "winston", consumer: "services/winston", members: [17, 0, 0] },
  { name: "ws", consumer: "web/ws", members: [13, 0, 0] },
  { name: "yaml", consumer: "text/yaml", members: [9, 10, 0] },
  { name: "yargs", consumer: "services/yargs", members: [7, 1, 0] },
  { name: "zustand", consumer: "data/zustand", members: [5, 5, 0] },
];

/** The packages of the current share. */
export const TESTED: readonly CorpusPackage[] = sampled(CORPUS);
