import { join, relative, sep } from "node:path";
import { createTwoFilesPatch } from "diff";
import type { Move } from "../documents/move-document.ts";
import type { CompileError } from "../emit/compile-errors.ts";
import { CliError, type Problem } from "../errors.ts";
import { type MovedFile, moveFile } from "../isolation/move-file.ts";
import { openIsolation, pathIn } from "../isolation/open-isolation.ts";
import { type OutsideUses, outsideUsesOf } from "../isolation/outside/outside-uses.ts";
import { applyEdits } from "../isolation/text-edits.ts";
import { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import {
  refuseOwnErrors,
  refuseUnresolved,
  requireCallersWithin,
} from "../isolation/verification/verify-writes.ts";
import { editedFile } from "../isolation/writes.ts";
import { comparePlaces, Lines, placeText } from "../place.ts";
import { loadConfig } from "../project/config.ts";
import { uncommittedFilesIn } from "../project/git.ts";
import type { OpenProject } from "../project/open-project.ts";
import { pathMatches } from "../project/path-match.ts";
import { findProject } from "../project/project.ts";
import type { SourceText } from "../project/source-text.ts";
import { type Recovery, Transaction } from "../project/writing/transaction.ts";
import { destinationIn } from "./destination.ts";

export interface MoveOptions {
  /** A package, a built-in module, or the path of a legacy module. */
  readonly module: string;
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  readonly write?: boolean | undefined;
  /** Whether to write files that have uncommitted changes. */
  readonly uncommitted?: boolean | undefined;
}

/** What a move returns. */
export interface Moved {
  readonly move: Move;
  readonly isWritten: boolean;
  readonly recovery: Recovery | undefined;
  readonly problems: readonly Problem[];
}

/**
 * Moves the callers of an outside module to the adapter in the config. Writes only on request, and never if
 * new compile errors would appear.
 *
 * @throws {CliError} `NOT_ISOLATED`, `NOT_IMPORTED`, `DOES_NOT_COMPILE`, `UNCOMMITTED`, and the errors of
 * finding the project, its config and writing
 */
export async function runMove(options: MoveOptions): Promise<Moved> {
  const { root } = findProject(options.folder, options.tsconfig);
  using transaction = options.write ? Transaction.begin(root) : undefined;
  const recovery = transaction?.recover();
  const config = (await loadConfig(root)) ?? {};
  const { project, outside, isolation } = openIsolation(options.module, options, config);
  using _open = project;
  if (!isolation) {
    throw new CliError(
      "NOT_ISOLATED",
      `The config does not say what replaces ${outside}. Draft a target with \`sleeve draft ${outside} --write\`, ` +
        "or name target and adapter under `isolated`.",
    );
  }
  const destination = destinationIn(project, outside, isolation);
  const letOff = config.borders?.[outside] ?? [];
  const isLetOff = (file: string) =>
    join(root, file) === pathIn(root, isolation.adapter) || letOff.some((entry) => pathMatches(entry, file));
  const uses = outsideUsesOf(project, outside, isLetOff);
  requireCallersWithin(
    outside,
    uses.files.map(({ source }) => source),
  );
  const moved = new Map(
    uses.files.map(({ source, sites, imported }) => [
      source.path,
      moveFile(source, sites, imported, destination),
    ]),
  );
  const move = moveOf(project, uses, moved, outside, isolation.adapter, destination.keepsNames);
  const files = new Map(
    uses.files.map(({ source }) => [
      source.path,
      applyEdits(source.text, moved.get(source.path)?.edits ?? []),
    ]),
  );
  const notes: Problem[] = [];
  if (move.files.length > 0) {
    refuseErrors(project, files);
    const texts = uses.files.map(({ source }) => ({
      path: source.path,
      before: source.text,
      after: files.get(source.path) ?? source.text,
    }));
    refuseUnresolved(project, texts, "The moved project");
  }
  if (transaction && move.files.length > 0) {
    if (!options.uncommitted) refuseUncommitted(root);
    notes.push(...refuseOwnErrors(project, files, "the move"));
    transaction.write(
      byFile(uses, moved).flatMap(({ source, edits }) =>
        edits.length > 0 ? [editedFile(source, edits)] : [],
      ),
    );
  }
  return {
    move,
    isWritten: transaction !== undefined && move.files.length > 0,
    recovery,
    problems: [...notes, ...project.problems],
  };
}

/** Returns the changes of each file; a component may have several modules. */
function byFile(uses: OutsideUses, moved: ReadonlyMap<string, MovedFile>) {
  const files = new Map<string, Omit<MovedFile, "stays"> & { readonly source: SourceText }>();
  for (const { source } of uses.files) {
    const { edits, imports, references } = moved.get(source.path) ?? { edits: [], imports: 0, references: 0 };
    const known = files.get(source.file) ?? { source, edits: [], imports: 0, references: 0 };
    files.set(source.file, {
      source,
      edits: [...known.edits, ...edits],
      imports: known.imports + imports,
      references: known.references + references,
    });
  }
  return [...files.values()];
}

function moveOf(
  project: OpenProject,
  uses: OutsideUses,
  moved: ReadonlyMap<string, MovedFile>,
  outside: string,
  adapter: string,
  keepsNames: boolean,
): Move {
  const files = byFile(uses, moved).flatMap(({ source, edits, imports, references }) => {
    if (edits.length === 0) return [];
    const sourceText = source.component?.text ?? source.text;
    const diff = createTwoFilesPatch(
      `a/${source.file}`,
      `b/${source.file}`,
      sourceText,
      applyEdits(sourceText, edits),
      undefined,
      undefined,
      {
        context: 2,
        headerOptions: { includeIndex: false, includeUnderline: false, includeFileHeaders: true },
      },
    );
    return [{ file: source.file, imports, references, diff }];
  });
  const stays = uses.files.flatMap(({ source }) =>
    (moved.get(source.path)?.stays ?? []).map(({ offset, reason }) => ({
      place: project.placeOf(source, offset),
      why: reason,
    })),
  );
  const uncompiled = project.uncompiled.imports
    .filter((site) => site.package === outside)
    .map(({ place }) => ({ place, why: "the compiler's config does not include the file" }));
  return {
    outside,
    adapter,
    names: keepsNames ? "same" : "new",
    files,
    stays: [...stays, ...uncompiled].sort((a, b) => comparePlaces(a.place, b.place)),
    mentions: mentionsOf(project, outside),
  };
}

/** Returns strings that name the module and are not imports: mocks in tests, lists of packages. */
function mentionsOf(project: OpenProject, outside: string): Move["mentions"] {
  return [...project.sources, ...project.uncompiled.sources]
    .flatMap((source) => {
      const offsets = new Set(source.sites.map(({ offset }) => offset));
      return ['"', "'", "`"].flatMap((quote) => {
        const mentions: number[] = [];
        const text = `${quote}${outside}${quote}`;
        for (let at = source.text.indexOf(text); at >= 0; at = source.text.indexOf(text, at + 1))
          if (!offsets.has(at)) mentions.push(at);
        return mentions.map((offset) => project.placeOf(source, offset));
      });
    })
    .filter(({ file }) => !/^sleeve\.config\./.test(file))
    .sort(comparePlaces);
}

const ERRORS_SHOWN = 3;

/** @throws {CliError} `DOES_NOT_COMPILE` */
function refuseErrors(project: OpenProject, files: ReadonlyMap<string, string>): void {
  using overlays = OverlayProgram.open(project);
  const errors = overlays.errorsWith(files);
  if (errors.length === 0) return;
  const shown = errors.slice(0, ERRORS_SHOWN).map((error) => errorText(error, project, files));
  const unlisted = errors.length > ERRORS_SHOWN ? ` And ${errors.length - ERRORS_SHOWN} more.` : "";
  throw new CliError(
    "DOES_NOT_COMPILE",
    `After the move, the project would have ${errors.length === 1 ? "a new error" : `${errors.length} new errors`}: ` +
      `${shown.join(" ")}${unlisted} Nothing was written. Correct the target or the adapter, and run again.`,
  );
}

function errorText(
  { path, offset, text }: CompileError,
  { root }: OpenProject,
  files: ReadonlyMap<string, string>,
): string {
  const file = relative(root, path).split(sep).join("/");
  const source = files.get(path);
  const where = source === undefined ? file : placeText({ file, ...new Lines(source).at(offset) });
  return `${where}: ${text.replace(/\.?$/, ".")}`;
}

/** @throws {CliError} `UNCOMMITTED` */
function refuseUncommitted(root: string): void {
  const files = uncommittedFilesIn(root);
  if (!files || files.length === 0) return;
  const others = files.length > 1 ? ` and ${files.length - 1} more` : "";
  throw new CliError(
    "UNCOMMITTED",
    `There are uncommitted changes in ${files[0]}${others}. Nothing was written. Commit them, so that the move can be ` +
      "reverted by itself, or pass --uncommitted.",
  );
}
