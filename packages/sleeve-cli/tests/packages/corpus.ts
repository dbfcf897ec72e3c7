/** A package that a consumer in `fixtures/packages/consumers` uses, and how well it is drafted. */
export interface CorpusPackage {
  readonly name: string;
  /** The consumer's file, without its ending. */
  readonly consumer: string;
  /** Number of used members with types of their own, with aliased types, and re-exported. */
  readonly members: readonly [own: number, aliased: number, reexported: number];
}

export const CORPUS: readonly CorpusPackage[] = [
  { name: "awilix", consumer: "services/awilix", members: [24, 0, 0] },
  { name: "axios", consumer: "web/axios", members: [17, 12, 0] },
  { name: "bignumber.js", consumer: "values/bignumber.js", members: [28, 0, 0] },
  { name: "commander", consumer: "services/commander", members: [28, 0, 0] },
  { name: "csv-parse", consumer: "text/csv-parse", members: [28, 0, 0] },
  { name: "dayjs", consumer: "values/dayjs", members: [21, 0, 0] },
  { name: "debug", consumer: "services/debug", members: [11, 0, 0] },
  { name: "decimal.js", consumer: "values/decimal.js", members: [18, 8, 0] },
  { name: "ejs", consumer: "text/ejs", members: [7, 0, 0] },
  { name: "fast-glob", consumer: "storage/fast-glob", members: [8, 1, 0] },
  { name: "fast-xml-parser", consumer: "text/fast-xml-parser", members: [12, 0, 0] },
  { name: "fastq", consumer: "services/fastq", members: [16, 0, 0] },
  { name: "fs-extra", consumer: "storage/fs-extra", members: [14, 1, 0] },
  { name: "handlebars", consumer: "text/handlebars", members: [10, 2, 0] },
  { name: "hono", consumer: "web/hono", members: [3, 6, 0] },
  { name: "immer", consumer: "data/immer", members: [6, 2, 0] },
  { name: "inversify", consumer: "services/inversify", members: [10, 0, 0] },
  { name: "jsonwebtoken", consumer: "values/jsonwebtoken", members: [17, 0, 0] },
  { name: "keyv", consumer: "storage/keyv", members: [10, 0, 0] },
  { name: "koa", consumer: "web/koa", members: [8, 1, 0] },
  { name: "lodash", consumer: "data/lodash", members: [26, 1, 0] },
  { name: "luxon", consumer: "values/luxon", members: [22, 1, 0] },
  { name: "memfs", consumer: "storage/memfs", members: [25, 4, 0] },
  { name: "memory-level", consumer: "storage/memory-level", members: [17, 3, 0] },
  { name: "@noble/hashes", consumer: "values/noble-hashes", members: [12, 3, 0] },
  { name: "papaparse", consumer: "text/papaparse", members: [19, 0, 0] },
  { name: "pino", consumer: "services/pino", members: [23, 1, 0] },
  { name: "qs", consumer: "web/qs", members: [10, 1, 0] },
  { name: "ramda", consumer: "data/ramda", members: [16, 2, 0] },
  { name: "redux", consumer: "data/redux", members: [12, 0, 0] },
  { name: "rxjs", consumer: "data/rxjs", members: [35, 0, 0] },
  { name: "semver", consumer: "values/semver", members: [20, 0, 0] },
  { name: "sql.js", consumer: "storage/sql.js", members: [14, 0, 0] },
  { name: "superstruct", consumer: "data/superstruct", members: [24, 0, 0] },
  { name: "tweetnacl", consumer: "values/tweetnacl", members: [25, 0, 0] },
  { name: "winston", consumer: "services/winston", members: [49, 0, 0] },
  { name: "ws", consumer: "web/ws", members: [6, 3, 0] },
  { name: "yaml", consumer: "text/yaml", members: [13, 2, 0] },
  { name: "yargs", consumer: "services/yargs", members: [8, 1, 0] },
  { name: "zustand", consumer: "data/zustand", members: [18, 3, 0] },
];

/** One package in five, or all of them with `npm run test:packages`, which takes three minutes more. */
export const TESTED: readonly CorpusPackage[] =
  process.env["SLEEVE_CORPUS"] === "all" ? CORPUS : CORPUS.filter((_, index) => index % 5 === 0);
