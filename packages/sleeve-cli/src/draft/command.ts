import { existsSync, readFileSync } from "node:fs";
import { basename, join, relative } from "node:path";
import { exportedFrom, targetTypeOf } from "../conformance/exported.ts";
import type { Draft, DraftFile } from "../documents/draft-document.ts";
import type { Place } from "../documents/place.ts";
import { CliError, type Problem } from "../errors.ts";
import { type Language, stemOf } from "../isolation/file-language.ts";
import { exportKey, memberName, type Names, typeName } from "../isolation/naming.ts";
import { openIsolation, pathIn } from "../isolation/open-isolation.ts";
import { type OutsideUses, outsideUsesOf } from "../isolation/outside-uses.ts";
import { OverlayProgram } from "../isolation/overlay-program.ts";
import { endingOf, specifierBetween } from "../isolation/specifiers.ts";
import { inStyle, type Style, styleOf } from "../isolation/style.ts";
import { nearestName } from "../nearest-name.ts";
import { type ConfigEntry, withEntries } from "../parser/config-edit.ts";
import { mayInferExports } from "../parser/may-infer.ts";
import { Lines } from "../place.ts";
import { filesReachedFrom } from "../project/affected-files.ts";
import { CONFIG_FILES, type Config, type Isolation, loadConfig } from "../project/config.ts";
import type { OpenProject } from "../project/open-project.ts";
import { Packages } from "../project/packages/packages.ts";
import { findProject } from "../project/project.ts";
import { type Recovery, Transaction } from "../project/transaction.ts";
import { surfaceOf } from "../types/surface-document.ts";
import { mentionsName, propertyKey } from "../types/type-text.ts";
import { inferredLeaksIn } from "../uses/inferred-leaks.ts";
import type { Ownership } from "../uses/origins.ts";
import { typesReplaced } from "./draft.ts";
import type { Outline } from "./outline.ts";
import { type Plan, planOf } from "./plan.ts";
import { qualityOf } from "./quality.ts";
import { contractText } from "./render/contract.ts";
import { type VerifiedDraft, verifyDraft } from "./verify.ts";

export interface DraftOptions {
  /** A package, a built-in module, or the path of a legacy module. */
  readonly module: string;
  readonly folder: string;
  readonly tsconfig?: string | undefined;
  /** Folder of the new files, relative to the project. */
  readonly into?: string | undefined;
  /** Whether callers keep the outside names. */
  readonly sameNames?: boolean | undefined;
  readonly write?: boolean | undefined;
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
  const { folder, project, outside, isolation } = openIsolation(options.module, options, config);
  using _open = project;
  using overlays = OverlayProgram.open(project);
  const isAdapter = (file: string) =>
    isolation !== undefined && join(root, file) === pathIn(root, isolation.adapter);
  const uses = outsideUsesOf(project, outside, isAdapter);
  const hasConfig = folder.generatedConfig === undefined;
  const plan = planOf(project, uses, outside, isolation, { ...options, hasConfig });
  const style = styleOf(
    root,
    uses.files.map(({ source }) => source),
  );
  const verified = verifyDraft(project, overlays, uses, {
    outside,
    keepsNames: plan.keepsNames,
    target: plan.target,
    object: plan.object,
    names: plan.names,
    targetPath: join(root, plan.isInUse ? besideOf(plan.targetFile) : plan.targetFile),
    adapterPath: join(root, plan.isInUse ? besideOf(plan.adapterFile) : plan.adapterFile),
    outsideTypesPath: join(root, plan.isInUse ? besideOf(plan.outsideTypesFile) : plan.outsideTypesFile),
    language: plan.language,
    style,
  });
  requireApplicableNames(verified.outline, uses, plan, isolation);
  const [error] = verified.errors;
  if (error) {
    const place = new Lines(textOf(project, error.path, verified, plan, root)).at(error.offset);
    throw new CliError(
      "DOES_NOT_COMPILE",
      `No draft of ${outside} compiles: ${relative(root, error.path)}:${place.line}: ${error.text} Nothing was written.`,
    );
  }
  // The overlay program still has all callers moved.
  const exposed = exposedBy(project, overlays, verified, plan);
  const files = filesOf(project, overlays, verified, uses, plan, style);
  const draft = draftOf(
    project,
    verified,
    plan,
    files,
    config,
    uses.whole.map(({ place }) => place),
    exposed,
  );
  const fresh = draft.files.filter(({ state }) => state === "new" || state === "added to");
  if (transaction && fresh.length > 0) {
    transaction.write(
      fresh.map(({ file, text }) => {
        const path = join(root, file);
        return {
          path,
          before: existsSync(path) ? readFileSync(path) : undefined,
          after: Buffer.from(text, "utf8"),
        };
      }),
    );
  }
  return {
    draft,
    isWritten: transaction !== undefined && fresh.length > 0,
    recovery,
    problems: project.problems,
  };
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
  const ownership: Ownership = {
    isOfInterest: (path) => project.packageOf(path) === outside,
    isOwn: (path) => project.isOwn(path),
    importedAs: () => undefined,
  };
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
  overlays: OverlayProgram,
  { outline, target, adapter, outsideTypes }: VerifiedDraft,
  uses: OutsideUses,
  plan: Plan,
  style: Style,
): readonly DraftFile[] {
  const { root, targetFile, adapterFile, outsideTypesFile, surfaceFile, contractFile } = plan;
  const file = (name: string, role: DraftFile["role"], text: string): DraftFile => {
    const path = join(root, name);
    const state = existsSync(path) ? (readFileSync(path, "utf8") === text ? "the same" : "kept") : "new";
    return { file: name, role, state, text };
  };
  if (plan.isInUse) {
    // Its author adds the new members; the surface and the contract follow from the target.
    const kept = (name: string, role: DraftFile["role"], text: string): DraftFile => ({
      file: name,
      role,
      state: "kept",
      text,
    });
    const stem = stemOf(basename(targetFile));
    const taken = adapter.replaceAll(`${stem}.new`, stem);
    return [
      kept(targetFile, "target", target),
      kept(adapterFile, "adapter", taken),
      ...(outline.aliased.length > 0 ? [kept(outsideTypesFile, "outside types", outsideTypes)] : []),
    ];
  }
  const files = [
    file(targetFile, "target", target),
    file(adapterFile, "adapter", adapter),
    ...(outline.aliased.length > 0 ? [file(outsideTypesFile, "outside types", outsideTypes)] : []),
  ];
  const hasTarget = outline.members.some(({ form }) => form !== "type");
  const exported = hasTarget
    ? exportedFrom(overlays.program, join(root, targetFile), outline.target)
    : undefined;
  const type = exported && targetTypeOf(exported);
  if (!exported || !type) return files;
  const surface = `${JSON.stringify(surfaceOf(exported.checker, outline.target, type), null, 2)}\n`;
  files.push(file(surfaceFile, "surface", surface));
  // A contract needs the library, which the project may not have.
  if (!new Packages().find("sleeve", join(root, contractFile))) return files;
  const ending = endingOf(undefined, project.sources, project.program.importEnding());
  const between = (to: string) => specifierBetween(join(root, contractFile), join(root, to), ending);
  const drafted = new Map([
    [join(root, targetFile), target],
    [join(root, adapterFile), adapter],
    ...(outline.aliased.length > 0 ? [[join(root, outsideTypesFile), outsideTypes] as const] : []),
    [join(root, surfaceFile), surface],
  ]);
  // If the project's settings do not allow JSON imports, the contract contains the surface itself.
  for (const surfaceSpecifier of [`./${surfaceFile.split("/").at(-1)}`, undefined]) {
    const text = inStyle(
      contractText(outline, uses, {
        target: between(targetFile),
        surface: surfaceSpecifier,
        document: surface,
        isScript: plan.language !== "typescript",
      }),
      style,
    );
    const errors = overlays.errorsWith(new Map([...drafted, [join(root, contractFile), text]]));
    if (errors.every(({ path }) => path !== join(root, contractFile))) {
      files.push(file(contractFile, "contract", text));
      break;
    }
  }
  return files;
}

function draftOf(
  project: OpenProject,
  { outline, moved }: VerifiedDraft,
  plan: Plan,
  files: readonly DraftFile[],
  config: Config,
  whole: readonly Place[],
  exposed: ReadonlyMap<string, string>,
): Draft {
  const { root, outside, targetFile, adapterFile, outsideTypesFile, keepsNames, names } = plan;
  const target = `${targetFile}#${outline.target}`;
  const adapter = `${adapterFile}#${outline.object}`;
  const callers = [...moved.values()].filter(({ edits }) => edits.length > 0);
  const members = outline.members.filter(({ form }) => form !== "type");
  const given = keepsNames ? "same" : namesFor(outline, names);
  const debt = debtOf(outline, exposed);
  const isLegacy = project.packages.some((pkg) => pkg.name === outside && pkg.kind === "legacy");
  const entries = [
    ...configEntries(outline, { target, adapter, names: given, debt }, members.length > 0, [
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
    names: given,
    members: members.flatMap(({ member, key, form, callbackResult }) => [
      { member: member || outline.object, replaces: key, form },
      ...(callbackResult ? [{ member: callbackResult.member, replaces: key, form: "promise" }] : []),
    ]),
    groups: outline.groups.map(({ name, usedIn, keys }) => ({
      interface: name,
      usedIn,
      members: members.filter(({ key }) => keys.includes(key)).map(({ member }) => member),
    })),
    types: typesReplaced(outline.types),
    quality: qualityOf(outline),
    debt,
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

/**
 * Every name in the config must belong to something that is used.
 *
 * @throws {CliError} `BAD_CONFIG`
 */
function requireApplicableNames(
  { members, types }: Outline,
  { exports }: OutsideUses,
  { outside, isInUse }: Plan,
  isolation: Isolation | undefined,
): void {
  // Moved callers use the target, not the outside module.
  if (isInUse || typeof isolation?.names !== "object") return;
  const known = [
    ...exports.map(({ specifier, name }) => exportKey(outside, specifier, name)),
    ...types.map(({ outsideName }) => outsideName),
  ];
  for (const key of Object.keys(isolation.names)) {
    const name = key.replace(/^(?:new|type) /, "");
    const isWhole = members.some((member) => member.key === name && member.form === "whole");
    if (known.includes(name) && !(isWhole && key === name)) continue;
    const meant = nearestName(name, known);
    const why = isWhole
      ? `the target has the shape of ${key}, so there is no member to name`
      : `the project does not use it`;
    throw new CliError(
      "BAD_CONFIG",
      `The config names ${key} under \`names\` of ${outside}, but ${why}. ${meant && !isWhole ? `Did you mean ${meant}?` : "Remove it."}`,
    );
  }
}

/** Returns the names that differ from the defaults, for the config. */
function namesFor({ outside, members, types, reexports }: Outline, names: Names): Names {
  const all: Record<string, string> = { ...names };
  for (const { key, specifier, export: name, member, form, type } of members) {
    const isTold =
      form === "type" ||
      member === "" ||
      form === "factory" ||
      memberName(outside, specifier, name, names) === member;
    if (!isTold) all[key] = member;
    // The target has the shape of this export, which has no name in it.
    if (form === "whole") delete all[key];
    // A type in a re-exported namespace keeps its name unless it has one here.
    const isInReexport = name.includes(".") && reexports.some((item) => key.startsWith(`${item.key}.`));
    if (type !== undefined && (isInReexport || typeName(key, name, all) !== type)) all[`type ${key}`] = type;
  }
  for (const { name, outsideName } of types)
    if (name !== outsideName && !members.some(({ type }) => type === name))
      all[`type ${outsideName}`] ??= name;
  return all;
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
  const wanted = outline.whole
    ? outline.whole.map(({ name }) => name).filter((name) => !/[()[\]]/.test(name))
    : offered;
  return {
    added: wanted.filter((name) => !has.has(name)),
    // Moved callers use the target, not the outside module.
    gone: isInUse ? [] : [...has].filter((name) => !wanted.includes(name)),
  };
}

const ASSERTED = "objects that come out of it go back in, so the adapter asserts its type";

/** Returns the outside types and values beyond the border, with the reasons. */
function debtOf(
  { object, aliased, types, members, reexports, reexportsAll, reasons }: Outline,
  exposed: ReadonlyMap<string, string>,
): Readonly<Record<string, string>> {
  const typeReason = new Map(types.map(({ name, key }) => [name, reasons.get(key)]));
  const memberReason = (alias: string) =>
    members.find(({ text, aliased }) => aliased !== undefined && mentionsName(text, alias))?.aliased;
  const debt: Record<string, string> = {};
  for (const { name } of aliased)
    debt[name] =
      typeReason.get(name) ?? memberReason(name) ?? "members of it have types that cannot be copied";
  for (const { member, isAsserted } of members) if (isAsserted) debt[member || object] = ASSERTED;
  for (const { reexportedAs, why } of reexports) debt[reexportedAs] = why;
  if (reexportsAll !== undefined) debt["*"] = "the module is used as a whole";
  for (const [name, place] of exposed) debt[name] ??= `${place} exposes it, because its type is inferred`;
  return debt;
}

function configEntries(
  { outside }: Outline,
  isolation: Isolation,
  hasTarget: boolean,
  importers: readonly string[],
): readonly ConfigEntry[] {
  const { target, adapter, names, debt = {} } = isolation;
  const object = (record: Readonly<Record<string, string>>) => {
    const lines = Object.entries(record).map(
      ([key, text]) => `  ${propertyKey(key)}: ${JSON.stringify(text)},`,
    );
    return lines.length === 0 ? "{}" : ["{", ...lines, "}"].join("\n").replaceAll("\n", "\n  ");
  };
  const list = (...places: readonly string[]) =>
    `[${places.map((place) => JSON.stringify(place)).join(", ")}]`;
  const settings = [
    `  target: ${JSON.stringify(target)},`,
    `  adapter: ${JSON.stringify(adapter)},`,
    `  names: ${names === "same" ? '"same"' : object(names)},`,
    ...(Object.keys(debt).length > 0 ? [`  debt: ${object(debt)},`] : []),
  ];
  return [
    ...(hasTarget ? [{ setting: "targets", key: target, value: list(adapter) }] : []),
    { setting: "borders", key: outside, value: list(...importers) },
    {
      setting: "isolated",
      key: outside,
      value: ["{", ...settings, "}"].join("\n"),
    },
  ];
}

/** Returns the config with the new entries; `undefined` if they must be added manually. */
function configFileOf(
  root: string,
  entries: readonly ConfigEntry[],
  config: Config,
  language: Language,
): DraftFile | undefined {
  const file = CONFIG_FILES.find((name) => existsSync(join(root, name)));
  if (file === undefined) {
    const made = language === "typescript" ? "sleeve.config.ts" : "sleeve.config.mjs";
    const text = withEntries(made, "export default {\n};\n", entries);
    return text === undefined ? undefined : { file: made, role: "config", state: "new", text };
  }
  const given = readFileSync(join(root, file), "utf8");
  const wanted = entries.filter(({ setting, key }) => {
    const known = config[setting as keyof Config];
    if (Array.isArray(known)) return !known.includes(key);
    return !(typeof known === "object" && key in known);
  });
  const text = withEntries(file, given, wanted);
  if (text === undefined) return undefined;
  return { file, role: "config", state: text === given ? "the same" : "added to", text };
}

function entriesText(entries: readonly ConfigEntry[]): string {
  return entries
    .map(({ setting, key, value }) =>
      value === undefined
        ? `${setting}: [${JSON.stringify(key)}],`
        : `${setting}: {\n  ${JSON.stringify(key)}: ${value.replaceAll("\n", "\n  ")},\n},`,
    )
    .join("\n");
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
