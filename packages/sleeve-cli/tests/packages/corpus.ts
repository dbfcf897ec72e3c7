/** A package that a consumer in `fixtures/packages/consumers` uses, and how well it is drafted. */
export interface CorpusPackage {
  readonly name: string;
  /** The consumer's file, if it is not named after the package. */
  readonly consumer?: string;
  /** Number of used members with types of their own, with handed-on types, and re-exported. */
  readonly members: readonly [own: number, handedOn: number, reexported: number];
}

export const CORPUS: readonly CorpusPackage[] = [
  { name: "awilix", members: [24, 0, 0] },
  { name: "axios", members: [17, 12, 0] },
  { name: "bignumber.js", members: [28, 0, 0] },
  { name: "commander", members: [28, 0, 0] },
  { name: "csv-parse", members: [28, 0, 0] },
  { name: "dayjs", members: [18, 3, 0] },
  { name: "debug", members: [11, 0, 0] },
  { name: "decimal.js", members: [16, 2, 0] },
  { name: "ejs", members: [7, 0, 0] },
  { name: "fast-glob", members: [8, 1, 0] },
  { name: "fast-xml-parser", members: [12, 0, 0] },
  { name: "fastq", members: [16, 0, 0] },
  { name: "fs-extra", members: [14, 1, 0] },
  { name: "handlebars", members: [10, 2, 0] },
  { name: "hono", members: [3, 6, 0] },
  { name: "immer", members: [7, 1, 0] },
  { name: "inversify", members: [10, 0, 0] },
  { name: "jsonwebtoken", members: [17, 0, 0] },
  { name: "keyv", members: [10, 0, 0] },
  { name: "koa", members: [8, 1, 0] },
  { name: "lodash", members: [20, 1, 0] },
  { name: "luxon", members: [22, 1, 0] },
  { name: "memfs", members: [25, 4, 0] },
  { name: "memory-level", members: [17, 3, 0] },
  { name: "@noble/hashes", consumer: "noble-hashes", members: [12, 3, 0] },
  { name: "papaparse", members: [19, 0, 0] },
  { name: "pino", members: [23, 1, 0] },
  { name: "qs", members: [10, 1, 0] },
  { name: "ramda", members: [16, 2, 0] },
  { name: "redux", members: [9, 2, 0] },
  { name: "rxjs", members: [8, 18, 0] },
  { name: "semver", members: [18, 2, 0] },
  { name: "sql.js", members: [14, 0, 0] },
  { name: "superstruct", members: [24, 0, 0] },
  { name: "tweetnacl", members: [25, 0, 0] },
  { name: "winston", members: [49, 0, 0] },
  { name: "ws", members: [6, 3, 0] },
  { name: "yaml", members: [13, 2, 0] },
  { name: "yargs", members: [8, 1, 0] },
  { name: "zustand", members: [18, 3, 0] },
];
