import { existsSync, readFileSync } from "node:fs";
import { join, relative } from "node:path";
import { exportedFrom, targetTypeOf } from "../conformance/exported.ts";
import type { Draft, DraftFile } from "../documents/draft-document.ts";
import type { Place } from "../documents/place.ts";
import { type Style, styleOf } from "../emit/style.ts";
import { CliError, type Problem } from "../errors.ts";
import { stemOf } from "../isolation/file-language.ts";
import { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import {
  refuseOwnErrors,
  refuseUnresolved,
  requireRewritable,
} from "../isolation/verification/verify-writes.ts";
import { mayInferExports } from "../parser/may-infer.ts";
import { Lines } from "../place.ts";
import { filesReachedFrom } from "../project/affected-files.ts";
import { type Config, loadConfig } from "../project/config.ts";
import type { OpenProject } from "../project/open-project.ts";
import { ownershipIn } from "../project/ownership.ts";
import { findProject } from "../project/project.ts";
import { type FileWrite, type Recovery, Transaction } from "../project/writing/transaction.ts";
import { inferredLeaksIn } from "../uses/inferred-leaks.ts";
import type { VerifiedDraft } from "./attempts.ts";
import {
  configEntries,
  configFileOf,
  debtOf,
  entriesText,
  namesFor,
  requireApplicableNames,
} from "./config-entries.ts";
import { draftedContract } from "./contract/drafted-contract.ts";
import { draftedFile } from "./drafted-file.ts";
import type { Independence } from "./independence/independence.ts";
import { editedConfig, type OpenDraftOptions, openForDraft } from "./open-draft.ts";
import type { Outline } from "./outline/model.ts";
import type { Plan } from "./plan.ts";
import { renderDraft } from "./render/rendered-draft.ts";
import { verifyDraft } from "./verify.ts";
import { builtContractNotes, editedCallers, movedTexts } from "./written-draft.ts";

export interface DraftOptions extends OpenDraftOptions {
  readonly write?: boolean | undefined;
  /** Whether the scenarios of the contract are run, which runs the outside module. Default: `false`. */
  readonly runsScenarios?: boolean | undefined;
}

/** What a draft returns. */
export interface Drafted {
  readonly draft: Draft;
  readonly isWritten: boolean;
  readonly recovery: Recovery | undefined;
  readonly problems: readonly Problem[];
}

/**
 * Drafts a target for an outside module, with an adapter, a surface, a contract, and config entries. Existing
 * files are never overwritten.
 *
 * @throws {CliError} `NOT_IMPORTED`, `DOES_NOT_COMPILE`, `BAD_CONFIG`, and the errors of finding the project, its config
 * and writing
 */
export async function runDraft(options: DraftOptions): Promise<Drafted> {
  const { root } = findProject(options.folder, options.tsconfig);
  using transaction = options.write ? Transaction.begin(root) : undefined;
  const recovery = transaction?.recover();
  const config = (await loadConfig(root)) ?? {};
  const { opened, uses, plan, compilerConfig } = openForDraft(options, config);
  const { project, outside, isolation, notes } = opened;
  using _open = project;
  using overlays = OverlayProgram.open(project);
  const style = styleOf(
    root,
    uses.files.map(({ source }) => source),
  );
  const verified = verifyDraft(project, overlays, uses, draftSettings(plan, style));
  requireApplicableNames(verified.outline, uses, plan, isolation);
  requireCompiled(project, verified, plan);
  // The overlay program still has all callers moved.
  const exposed = exposedBy(project, overlays, verified, plan);
  const contract = plan.isInUse
    ? undefined
    : draftedContract(project, overlays, uses, verified, {
        plan,
        style,
        isRun: options.runsScenarios === true,
      });
  const drafted = [...filesOf(project, verified, plan, style), ...(contract ? [contract.file] : [])];
  const files = compilerConfig ? [...drafted, editedConfig(root, compilerConfig)] : drafted;
  const draft = draftOf(
    project,
    verified,
    plan,
    files,
    contract?.scenarios,
    config,
    uses.whole.map(({ place }) => place),
    exposed,
    verified.independence(),
  );
  const writes = writesOf(root, draft);
  // What is written must stand beside the callers as they are, and after they are moved.
  const planned = writes.map(({ path, before, after }) => ({
    path,
    before: before && Buffer.from(before).toString("utf8"),
    after: Buffer.from(after).toString("utf8"),
  }));
  const callers = movedTexts(uses, verified);
  refuseUnresolved(project, [...planned, ...callers], `The draft of ${outside}`);
  requireRewritable(root, [...writes, ...editedCallers(uses, verified)]);
  const compiled = new Map([...planned, ...callers].map(({ path, after }) => [path, after]));
  const isWritten = transaction !== undefined && writes.length > 0;
  const ownNotes = isWritten ? refuseOwnErrors(project, compiled, "the draft and the move") : [];
  if (isWritten) transaction.write(writes);
  return {
    draft,
    isWritten,
    recovery,
    problems: [...notes, ...ownNotes, ...builtContractNotes(project, draft, plan), ...project.problems],
  };
}

function draftSettings(plan: Plan, style: Style): Parameters<typeof verifyDraft>[3] {
  const { outside, keepsNames, types, target, object, names, language, root } = plan;
  const pathOf = (file: string) => join(root, plan.isInUse ? besideOf(file) : file);
  return {
    outside,
    keepsNames,
    types,
    target,
    object,
    names,
    targetPath: pathOf(plan.targetFile),
    adapterPath: pathOf(plan.adapterFile),
    outsideTypesPath: pathOf(plan.outsideTypesFile),
    language,
    style,
  };
}

/** @throws {CliError} `DOES_NOT_COMPILE` */
function requireCompiled(project: OpenProject, verified: VerifiedDraft, plan: Plan): void {
  const [error] = verified.errors;
  if (!error) return;
  const { outside, root } = plan;
  const place = new Lines(textOf(project, error.path, verified, plan, root)).at(error.offset);
  throw new CliError(
    "DOES_NOT_COMPILE",
    `No draft of ${outside} compiles: ${relative(root, error.path)}:${place.line}: ${error.text} Nothing was written.`,
  );
}

/** Returns the files of a draft that do not exist yet, or that it adds to. */
function writesOf(root: string, { files }: Draft): readonly FileWrite[] {
  return files
    .filter(({ state }) => state === "new" || state === "added to")
    .map(({ file, text }) => {
      const path = join(root, file);
      const before = existsSync(path) ? readFileSync(path) : undefined;
      return { path, before, after: Buffer.from(text, "utf8") };
    });
}

/**
 * Returns the path where additions are tried, next to files that callers already use. Nothing is written
 * there.
 */
function besideOf(file: string): string {
  return `${stemOf(file)}.new${file.slice(stemOf(file).length)}`;
}

/** Returns the outside types that exported declarations expose because their types are inferred, with a place. */
function exposedBy(
  project: OpenProject,
  { program }: OverlayProgram,
  { moved }: VerifiedDraft,
  { outside }: Plan,
): ReadonlyMap<string, string> {
  const ownership = ownershipIn(project, (name) => name === outside);
  const exposed = new Map<string, string>();
  for (const path of filesReachedFrom(project, moved.keys())) {
    const source = project.sourceAt(path);
    if (!source || !mayInferExports(source.text)) continue;
    for (const { shownBy, origin } of inferredLeaksIn(program, path, ownership))
      if (!exposed.has(origin.name)) exposed.set(origin.name, `${shownBy.name} in ${source.file}`);
  }
  return exposed;
}

function filesOf(
  project: OpenProject,
  { outline, target, adapter, outsideTypes }: VerifiedDraft,
  plan: Plan,
  style: Style,
): readonly DraftFile[] {
  const { root, targetFile, adapterFile, outsideTypesFile } = plan;
  if (plan.isInUse) {
    // Its author adds the new members; the contract follows from the target.
    const unwritten = (name: string, role: DraftFile["role"], text: string): DraftFile => ({
      file: name,
      role,
      state: "kept",
      text,
    });
    // Its files import each other by their own names.
    const { language, keepsNames } = plan;
    const [targetPath, adapterPath, outsideTypesPath] = [
      join(root, targetFile),
      join(root, adapterFile),
      join(root, outsideTypesFile),
    ];
    const paths = { targetPath, adapterPath, outsideTypesPath };
    const inPlace = renderDraft(project, outline, { ...paths, language, keepsNames, style });
    return [
      unwritten(targetFile, "target", inPlace.target.text),
      unwritten(adapterFile, "adapter", inPlace.adapter.text),
      ...(outline.aliased.length > 0
        ? [unwritten(outsideTypesFile, "outside types", inPlace.outsideTypes.text)]
        : []),
    ];
  }
  return [
    draftedFile(root, targetFile, "target", target),
    draftedFile(root, adapterFile, "adapter", adapter),
    ...(outline.aliased.length > 0
      ? [draftedFile(root, outsideTypesFile, "outside types", outsideTypes)]
      : []),
  ];
}
function draftOf(
  project: OpenProject,
  { outline, moved }: VerifiedDraft,
  plan: Plan,
  files: readonly DraftFile[],
  scenarios: Draft["scenarios"] | undefined,
  config: Config,
  whole: readonly Place[],
  exposed: ReadonlyMap<string, string>,
  quality: Independence,
): Draft {
  const { root, outside, targetFile, adapterFile, outsideTypesFile, keepsNames, names } = plan;
  const target = `${targetFile}#${outline.target}`;
  const adapter = `${adapterFile}#${outline.object}`;
  const callers = [...moved.values()].filter(({ edits }) => edits.length > 0);
  const members = outline.members.filter(({ form }) => form !== "type");
  const configNames = keepsNames ? "same" : namesFor(outline, names);
  const debt = debtOf(outline, exposed);
  const isLegacy = project.packages.some((pkg) => pkg.name === outside && pkg.kind === "legacy");
  const entries = [
    ...configEntries(outline, { target, adapter, names: configNames, debt }, members.length > 0, [
      adapterFile,
      ...(outline.aliased.length > 0 ? [outsideTypesFile] : []),
    ]),
    ...(isLegacy ? [{ setting: "legacy", key: outside, value: undefined }] : []),
  ];
  const withConfig = configFileOf(root, entries, config, plan.language);
  return {
    outside,
    target,
    adapter,
    names: configNames,
    members: members.flatMap(({ member, key, form, callbackResult }) => [
      { member: member || outline.object, replaces: key, form },
      ...(callbackResult ? [{ member: callbackResult.member, replaces: key, form: "promise" }] : []),
    ]),
    groups: outline.groups.map(({ name, usedIn, keys }) => ({
      interface: name,
      usedIn,
      members: members.filter(({ key }) => keys.includes(key)).map(({ member }) => member),
    })),
    types: outline.types.map(({ name, outsideName }) => ({ type: name, replaces: outsideName })),
    quality,
    debt,
    scenarios: scenarios ?? null,
    manualSteps: [
      ...outline.reexports.map(({ key, why, remedy, places }) => ({ what: key, why, remedy, places })),
      ...staysOf(project, moved),
      ...(outline.isItself
        ? [
            {
              what: `all of ${outside}`,
              why: "it is a function that is used as a whole",
              remedy: "Write a target for the parts you need, and change callers to it.",
              places: whole,
            },
          ]
        : []),
    ],
    since: sinceThen(project, plan, outline),
    callers: {
      files: callers.length,
      references: callers.reduce((sum, { references }) => sum + references, 0),
    },
    files: [...files, ...(withConfig ? [withConfig] : [])],
    configEntries: withConfig ? null : entriesText(entries),
  };
}

function staysOf(project: OpenProject, moved: VerifiedDraft["moved"]): Draft["manualSteps"] {
  return [...moved].flatMap(([path, { stays }]) => {
    const source = project.sourceAt(path);
    if (!source) return [];
    return stays.map(({ offset, reason }) => ({
      what: "an import that stays",
      why: reason,
      remedy: "Rewrite it manually to use the adapter.",
      places: [project.placeOf(source, offset)],
    }));
  });
}

/** Returns how the project's use has changed since the target was drafted. */
function sinceThen(project: OpenProject, plan: Plan, outline: Outline): Draft["since"] {
  const { root, targetFile, isInUse } = plan;
  const path = join(root, targetFile);
  if (!existsSync(path)) return null;
  const exported = exportedFrom(project.program, path, outline.target);
  const type = exported && targetTypeOf(exported);
  if (!exported || !type) return null;
  const has = new Set(exported.checker.getPropertiesOfType(type).map(({ name }) => name));
  const offered = outline.members
    .filter(({ form }) => form !== "type")
    .flatMap(({ member, callbackResult }) => [member, ...(callbackResult ? [callbackResult.member] : [])]);
  const wantedNames = outline.whole
    ? outline.whole.map(({ name }) => name).filter((name) => !/[()[\]]/.test(name))
    : offered;
  return {
    added: wantedNames.filter((name) => !has.has(name)),
    // Moved callers use the target, not the outside module.
    gone: isInUse ? [] : [...has].filter((name) => !wantedNames.includes(name)),
  };
}

function textOf(
  project: OpenProject,
  path: string,
  { target, adapter }: VerifiedDraft,
  plan: Plan,
  root: string,
): string {
  if (path === join(root, plan.targetFile)) return target;
  if (path === join(root, plan.adapterFile)) return adapter;
  return project.sourceAt(path)?.text ?? "";
}
