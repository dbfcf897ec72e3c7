import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import {
  type ComparedExports,
  type ExportsRecord,
  exportsRecordSchema,
} from "../documents/exports-document.ts";
import { parsedFile } from "../documents/parsed-file.ts";
import { CliError, type Problem } from "../errors.ts";
import { loadConfig } from "../project/config.ts";
import { givenPackage } from "../project/packages/given-package.ts";
import { findProject } from "../project/project.ts";
import { type Recovery, Transaction } from "../project/writing/transaction.ts";
import { compareExports } from "./compare-exports.ts";
import { ownDeclarations, publishedDeclarations } from "./declarations.ts";

export interface ExportsOptions {
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** Source files whose exports are public. Default: the entry points in `package.json`. */
  readonly entries?: readonly string[] | undefined;
  /** Whether to record the exports instead of comparing them. */
  readonly record?: boolean | undefined;
  /** Folder, tarball or version of a package to compare with, instead of the record. */
  readonly against?: string | undefined;
}

/** The file with the recorded exports of a project. */
const RECORD_FILE = "sleeve.exports.json";

/**
 * Compares a project's public exports with the recorded ones, or with a published version, for code that uses and
 * code that implements them.
 *
 * @throws {CliError} `NOT_RECORDED`, `NOT_BUILT`, `NO_PACKAGE`, and the errors of finding the project and its config
 */
export async function runExports(options: ExportsOptions): Promise<{
  readonly compared: ComparedExports;
  readonly isRecorded: boolean;
  readonly recovery: Recovery | undefined;
  readonly problems: readonly Problem[];
}> {
  const config = (await loadConfig(findProject(options.folder, options.tsconfig).root)) ?? {};
  const { root, tsconfig } = findProject(options.folder, options.tsconfig ?? config.tsconfig);
  using transaction = options.record ? Transaction.begin(root) : undefined;
  const recovery = transaction?.recover();
  const record = options.record || options.against !== undefined ? undefined : recordIn(root);
  const published =
    options.against === undefined ? undefined : publishedDeclarations(givenPackage(options.against, root));
  const now = ownDeclarations(root, tsconfig, options.entries ?? sourceEntries(record));
  const before = published ?? record ?? now;
  const compared = compareExports(root, tsconfig, before, now);
  if (transaction) {
    const path = join(root, RECORD_FILE);
    const text = `${JSON.stringify(now satisfies ExportsRecord, null, 2)}\n`;
    transaction.write([
      { path, before: existsSync(path) ? readFileSync(path) : undefined, after: Buffer.from(text) },
    ]);
  }
  return {
    compared: { name: now.name, ...compared, before: options.record ? null : compared.before },
    isRecorded: options.record === true,
    recovery,
    problems: notCompared(compared.differences),
  };
}

function notCompared(differences: ComparedExports["differences"]): readonly Problem[] {
  const names = differences.filter(({ consumers }) => consumers === "not compared").map(({ name }) => name);
  if (names.length === 0) return [];
  const [firstName = ""] = names;
  const others = names.length === 1 ? "" : ` and ${names.length - 1} more`;
  return [
    {
      code: "NOT_COMPARED",
      message: `The compiler took too long or too much memory for \`${firstName}\`${others}. Compare their declarations, which are printed, by hand.`,
    },
  ];
}

/** Returns the source files that were named when the exports were recorded. */
function sourceEntries(record: ExportsRecord | undefined): readonly string[] {
  return Object.keys(record?.entries ?? {}).filter((entry) => !entry.startsWith("."));
}

/** @throws {CliError} `NOT_RECORDED` */
function recordIn(root: string): ExportsRecord {
  const path = join(root, RECORD_FILE);
  const refusal = (what: string) =>
    new CliError(
      "NOT_RECORDED",
      `${what} Run \`sleeve exports --record\`, or pass --against with a version.`,
    );
  if (!existsSync(path)) throw refusal(`There is no ${RECORD_FILE} to compare with.`);
  return parsedFile(exportsRecordSchema, path, (reason) =>
    refusal(`${RECORD_FILE} is not a record of exports: ${reason}.`),
  );
}
