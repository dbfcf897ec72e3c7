import { existsSync, readFileSync } from "node:fs";
import { join } from "node:path";
import type { WrapperFile, WrapResult } from "../documents/wrap-document.ts";
import { CliError, type Problem } from "../errors.ts";
import { generate } from "../generation/generate.ts";
import type { GenerateOptions } from "../generation/generate-options.ts";
import { regenerate } from "../generation/regenerate.ts";
import { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import { loadConfig } from "../project/config.ts";
import { OpenProject } from "../project/open-project.ts";
import { findProject } from "../project/project.ts";
import { type Recovery, Transaction } from "../project/writing/transaction.ts";

export interface WrapOptions extends Omit<GenerateOptions, "type"> {
  /** The type to wrap. Default: the types of all generated files of the project, with their own options. */
  readonly type?: string | undefined;
  readonly folder: string;
  readonly write?: boolean | undefined;
}

/** What generating a wrapper returns. */
export interface Wrapped {
  readonly result: WrapResult;
  readonly isWritten: boolean;
  readonly recovery: Recovery | undefined;
  readonly problems: readonly Problem[];
}

/**
 * Generates a wrapper of a type as source, and writes it if that is wanted. A file that was edited manually is never
 * overwritten.
 *
 * @throws {CliError} the errors of `generate`, and of finding the project, loading its config and writing
 */
export async function runWrap(options: WrapOptions): Promise<Wrapped> {
  const { root, ...folder } = findProject(options.folder, options.tsconfig);
  // Only proposals depend on the config.
  const { type, kind } = options;
  const usesNames = type === undefined || kind === "adapter" || kind === "facade";
  const synonyms = usesNames ? (await loadConfig(root))?.synonyms : undefined;
  using transaction = options.write ? Transaction.begin(root) : undefined;
  const recovery = transaction?.recover();
  using project = OpenProject.open({ root, ...folder }, { canOverlay: true });
  using overlays = OverlayProgram.open(project);
  const { result, problems } =
    type === undefined
      ? allAgain(project, overlays, synonyms)
      : { result: generate(project, overlays, { ...options, type, synonyms }), problems: [] };
  const changed = result.wrappers.filter(({ state }) => state === "new" || state === "stale");
  const isWritten = transaction !== undefined && changed.length > 0;
  if (isWritten)
    transaction.write(
      changed.map(({ file, text }) => {
        const path = join(root, file);
        return {
          path,
          before: existsSync(path) ? readFileSync(path) : undefined,
          after: Buffer.from(text, "utf8"),
        };
      }),
    );
  return {
    result,
    isWritten,
    recovery,
    problems: [...problems, ...result.wrappers.flatMap(problemsOf), ...project.problems],
  };
}

/** Generates all generated files again. */
function allAgain(
  project: OpenProject,
  overlays: OverlayProgram,
  synonyms: GenerateOptions["synonyms"],
): { readonly result: WrapResult; readonly problems: readonly Problem[] } {
  const files = regenerate(project, overlays, synonyms);
  return {
    result: {
      wrappers: files.flatMap(({ now }) => (now instanceof CliError ? [] : [now])),
      skipped: [],
    },
    problems: files.flatMap(({ file, now }) =>
      now instanceof CliError
        ? [{ code: now.code, message: `${file} cannot be generated again. ${now.message}` }]
        : [],
    ),
  };
}

function problemsOf({ state, file }: WrapperFile): readonly Problem[] {
  switch (state) {
    case "edited":
      return [
        {
          code: "EDITED",
          message: `${file} was edited after it was generated, so it is not overwritten. Move your changes to another file, delete this one, and run again.`,
        },
      ];
    case "kept":
      return [
        {
          code: "NOT_GENERATED",
          message: `${file} exists and was not generated, so it is not overwritten. Name another file with --to.`,
        },
      ];
    default:
      return [];
  }
}
