import { existsSync } from "node:fs";
import { join, relative, sep } from "node:path";
import { type CompilerSymbol, SignatureKind } from "../../compiler/typescript.ts";
import { exportedFrom, targetTypeOf } from "../../conformance/exported.ts";
import type { Draft, DraftFile } from "../../documents/draft-document.ts";
import type { Style } from "../../emit/style.ts";
import { accessText } from "../../isolation/naming.ts";
import type { OutsideUses } from "../../isolation/outside/outside-uses.ts";
import { endingOf, specifierBetween } from "../../isolation/specifiers.ts";
import { applyEdits } from "../../isolation/text-edits.ts";
import type { OverlayProgram } from "../../isolation/verification/overlay-program.ts";
import { filesReachedFrom } from "../../project/affected-files.ts";
import type { OpenProject } from "../../project/open-project.ts";
import { outsideFilesIn } from "../../project/ownership.ts";
import { Packages, packageNameOfPath } from "../../project/packages/packages.ts";
import { surfaceOf } from "../../types/surface-document.ts";
import type { VerifiedDraft } from "../attempts.ts";
import { draftedFile } from "../drafted-file.ts";
import type { Plan } from "../plan.ts";
import type { LeftOutUse } from "../scenarios/observations.ts";
import { type CallerScenarios, scenariosOf } from "../scenarios/scenarios.ts";
import { contractFileOf } from "./contract-file.ts";
import { contractPlace } from "./contract-place.ts";
import { effectOfUse, effectsOf } from "./effects.ts";
import { recordedScenarios } from "./run-scenarios.ts";

/** The contract of a draft. */
export interface ContractDraft {
  readonly file: DraftFile;
  readonly scenarios: NonNullable<Draft["scenarios"]>;
}

interface ContractSettings {
  readonly plan: Plan;
  readonly style: Style;
  /** Whether the scenarios are run, which runs the outside module. */
  readonly isRun: boolean;
}

/**
 * Drafts a contract with scenarios from the callers. Returns `undefined` if the library, which it needs, is not installed,
 * or there is no target.
 */
export function draftedContract(
  project: OpenProject,
  overlays: OverlayProgram,
  uses: OutsideUses,
  verified: VerifiedDraft,
  { plan, style, isRun }: ContractSettings,
): ContractDraft | undefined {
  const { root, targetFile, adapterFile, contractFile: besideFile, object } = plan;
  const { outline } = verified;
  const compiledPath = join(root, besideFile);
  if (!new Packages().find("sleeve", compiledPath)) return undefined;
  const members = membersOf(project, overlays, verified, plan);
  if (!members) return undefined;
  const fromCallers = callerScenarios(project, overlays, uses, verified, plan);
  const unseen = withoutScenario(members, fromCallers, object);
  const task = { object, adapter: verified.adapter, adapterPath: join(root, adapterFile) };
  const { scenarios, leftOut } = isRun
    ? recordedScenarios(fromCallers.scenarios, task, root)
    : { scenarios: fromCallers.scenarios, leftOut: [] };
  const contractFile = existsSync(compiledPath)
    ? besideFile
    : contractPlace(project, besideFile, isBuilt(project, plan));
  const ending = endingOf(undefined, project.sources, project.program.importEnding());
  const from = (file: string) => ({
    targetPath: join(root, targetFile),
    adapterPath: join(root, adapterFile),
    specifierOf: (path: string) => specifierBetween(join(root, file), path, ending),
  });
  const contract = contractFileOf(outline, { members, scenarios, leftOut: unseen }, overlays, {
    compiledPath,
    compiled: from(besideFile),
    written: from(contractFile),
    isScript: plan.language !== "typescript",
    style,
    drafted: new Map(draftedPaths(verified, plan)),
  });
  if (!contract) return undefined;
  return {
    file: draftedFile(root, contractFile, "contract", contract.text),
    scenarios: {
      written: contract.count,
      isRun,
      leftOut: [
        ...leftOut,
        ...contract.leftOut,
        ...unseen.map(({ member, why }) => ({ title: member, why })),
      ],
    },
  };
}

/** Returns the uses that no scenario has, and the members of which no caller looks at a result. */
function withoutScenario(
  members: readonly { readonly name: string }[],
  { scenarios, leftOut }: CallerScenarios,
  object: string,
): readonly Pick<LeftOutUse, "member" | "why">[] {
  const codes = scenarios.flatMap(({ lines }) => lines.map(({ code }) => code));
  const isSeen = (name: string) =>
    codes.some((code) => code.includes(object + accessText(name))) ||
    leftOut.some(({ member }) => member === name || member.startsWith(`${name}.`));
  const unseen = members.filter(({ name }) => !isSeen(name));
  return [...leftOut, ...unseen.map(({ name }) => ({ member: name, why: "no caller uses what it returns" }))];
}

function draftedPaths({ outline, target, adapter, outsideTypes }: VerifiedDraft, plan: Plan) {
  const { root, targetFile, adapterFile, outsideTypesFile } = plan;
  return [
    [join(root, targetFile), target] as const,
    [join(root, adapterFile), adapter] as const,
    ...(outline.aliased.length > 0 ? [[join(root, outsideTypesFile), outsideTypes] as const] : []),
  ];
}

/** Returns the members of the target with their kinds; `undefined` if it is no object with members. */
function membersOf(
  project: OpenProject,
  overlays: OverlayProgram,
  { outline, used }: VerifiedDraft,
  { root, targetFile }: Plan,
): readonly { readonly name: string; readonly kind: string }[] | undefined {
  if (!outline.members.some(({ form }) => form !== "type")) return undefined;
  const exported = exportedFrom(overlays.program, join(root, targetFile), outline.target);
  const type = exported && targetTypeOf(exported);
  if (!exported || !type) return undefined;
  const { checker } = exported;
  // An alias of a whole outside type has more members than are used.
  const has = outline.wholeType === undefined ? undefined : (member: CompilerSymbol) => used.has(member);
  const scope = { isOutside: outsideFilesIn(project), has };
  return Object.keys(surfaceOf(checker, outline.target, type, scope).members).map((name) => {
    const member = checker.getPropertyOfType(type, name);
    const memberType = member && checker.getTypeOfSymbol(member);
    const present = memberType && checker.getNonNullableType(memberType);
    const isCalled = present && checker.getSignaturesOfType(present, SignatureKind.Call).length > 0;
    return { name, kind: isCalled ? "method" : "property" };
  });
}

/** Number of files that are read for scenarios, the importing files first. */
const MAX_FILES = 150;

function callerScenarios(
  project: OpenProject,
  overlays: OverlayProgram,
  { files }: OutsideUses,
  verified: VerifiedDraft,
  plan: Plan,
): CallerScenarios {
  const { root, targetFile, adapterFile } = plan;
  const { outline, moved } = verified;
  const callers = files.map(({ source: { path, text } }) => ({
    path,
    text: applyEdits(text, moved.get(path)?.edits ?? []),
  }));
  overlays.program.propose(
    new Map([...draftedPaths(verified, plan), ...callers.map(({ path, text }) => [path, text] as const)]),
  );
  const specifiers = [...new Set(outline.members.map(({ specifier }) => specifier))];
  const effects = effectsOf(specifiers, join(root, adapterFile));
  const paths = callers.map(({ path }) => path).slice(0, MAX_FILES);
  return scenariosOf(
    overlays.program,
    {
      callers: paths,
      reached: [...new Set([...paths, ...filesReachedFrom(project, paths)])].slice(0, MAX_FILES),
      nameOf: (path) => relative(root, path).split(sep).join("/"),
    },
    {
      targetPath: join(root, targetFile),
      isFromUse: outline.replacements !== undefined,
      adapterPath: join(root, adapterFile),
      object: outline.object,
      isOfModule: (path) => packageNameOfPath(path, root) === outline.outside,
      effectOf: (use) => effectOfUse(effects, use),
    },
  );
}

/** Whether a build would compile a file beside the target. */
function isBuilt({ program, root }: OpenProject, { compilerConfig, contractFile }: Plan): boolean {
  const configured = program.configuredProjects().find(({ tsconfig }) => tsconfig === compilerConfig);
  return configured?.outFolder !== undefined && program.wouldList(compilerConfig, [join(root, contractFile)]);
}
