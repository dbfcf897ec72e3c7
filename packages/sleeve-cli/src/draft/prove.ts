import { join } from "node:path";
import type { CompileError } from "../isolation/compile-errors.ts";
import { type Destination, type MovedFile, moveFile } from "../isolation/move-file.ts";
import { exportKey } from "../isolation/naming.ts";
import type { OutsideUses } from "../isolation/outside-uses.ts";
import type { Proposals } from "../isolation/proposal.ts";
import { endingOf, specifierBetween } from "../isolation/specifiers.ts";
import type { Style } from "../isolation/style.ts";
import { applyEdits } from "../isolation/text-edits.ts";
import { usedMembersIn } from "../isolation/used-members.ts";
import { Lines } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import { type Outline, type OutlineSettings, outlineOf } from "./outline.ts";
import { renderAdapter } from "./render-adapter.ts";
import { renderTarget, usersOf } from "./render-target.ts";
import { type Rendered, styled } from "./rendered.ts";

export interface ProofSettings extends Omit<OutlineSettings, "passOn" | "canHandAll"> {
  /** The paths of the target's file and the adapter's. */
  readonly targetPath: string;
  readonly adapterPath: string;
  readonly style: Style;
}

/** A draft that compiles, with all callers moved to it. */
export interface ProvenDraft {
  readonly outline: Outline;
  readonly target: string;
  readonly adapter: string;
  readonly moved: ReadonlyMap<string, MovedFile>;
  /** Errors that there would still be, whatever is handed on as it is. */
  readonly errors: readonly CompileError[];
}

/** After so many rounds, all that is left is handed on as it is. */
const MOST_ROUNDS = 12;

/**
 * Drafts a target and its adapter, and has the compiler check them with all callers moved. What an error is about is handed
 * on as it is, until there is no error left.
 */
export function proveDraft(
  project: OpenProject,
  proposals: Proposals,
  uses: OutsideUses,
  settings: ProofSettings,
): ProvenDraft {
  const used = usedMembersIn(project, uses);
  const passOn = new Map<string, string>();
  let canHandAll = true;
  if (uses.files.length === 0) {
    const outline = outlineOf(project, uses, used, { ...settings, passOn, canHandAll });
    return { outline, target: "", adapter: "", moved: new Map(), errors: [] };
  }
  const all = uses.exports.map(({ specifier, name }) => exportKey(settings.outside, specifier, name));
  for (let round = 1; ; round++) {
    const outline = outlineOf(project, uses, used, { ...settings, passOn, canHandAll });
    const draft = rendered(project, outline, settings);
    const moved = new Map(
      uses.files.map(({ source, sites, imported }) => [
        source.path,
        moveFile(source, sites, imported, draft.destination),
      ]),
    );
    const files = new Map([
      ...(outline.members.length + outline.types.length > 0
        ? [[settings.targetPath, draft.target.text] as const]
        : []),
      [settings.adapterPath, draft.adapter.text],
      ...uses.files.map(
        ({ source }) => [source.path, applyEdits(source.text, moved.get(source.path)?.edits ?? [])] as const,
      ),
    ]);
    const errors = proposals.errorsWith(files);
    if (canHandAll && errors.some((error) => isAtHandAll(error, settings.adapterPath, draft.adapter.text))) {
      canHandAll = false;
      continue;
    }
    const blamed = errors.flatMap((error) => {
      const keys = blameFor(error, uses, outline, draft, settings).filter((key) => !passOn.has(key));
      return keys.map((key) => [key, error] as const);
    });
    // What cannot be renamed where it is used keeps its name.
    const kept = [...moved.values()].flatMap(({ stays }) =>
      stays.flatMap(({ of }) => (of ? exportKey(settings.outside, of.specifier, of.name) : [])),
    );
    const unmoved = kept.filter((key) => all.includes(key) && !passOn.has(key));
    for (const key of unmoved) passOn.set(key, "it is used in a way that its name cannot be taken from");
    if (unmoved.length > 0 && round < MOST_ROUNDS) continue;
    const isLast = errors.length === 0 || (blamed.length === 0 && all.every((key) => passOn.has(key)));
    if (isLast) {
      return { outline, target: draft.target.text, adapter: draft.adapter.text, moved, errors };
    }
    const [first] = errors;
    const reason = (error: CompileError | undefined) =>
      `with a type of ours, the compiler says: ${shortened(error?.text ?? "")}`;
    for (const [key, error] of blamed) passOn.set(key, reason(error));
    if (blamed.length === 0 || round >= MOST_ROUNDS)
      for (const key of all) if (!passOn.has(key)) passOn.set(key, reason(first));
  }
}

/** Whether the compiler does not let all of a module be handed on: one that is exported whole, for one. */
function isAtHandAll({ path, offset }: CompileError, adapterPath: string, adapter: string): boolean {
  return (
    path === adapterPath &&
    /^export \* from/.test(adapter.split("\n")[new Lines(adapter).at(offset).line - 1] ?? "")
  );
}

const MOST_TOLD = 140;

function shortened(text: string): string {
  return text.length > MOST_TOLD ? `${text.slice(0, MOST_TOLD - 1)}…` : text;
}

interface RenderedDraft {
  readonly target: Rendered;
  readonly adapter: Rendered;
  readonly destination: Destination;
}

function rendered(project: OpenProject, outline: Outline, settings: ProofSettings): RenderedDraft {
  const { targetPath, adapterPath, language, style, keepsNames } = settings;
  const ending = endingOf(undefined, project.sources, project.program.importEnding());
  const between = (from: string, to: string) => specifierBetween(from, to, ending);
  const target = styled(
    renderTarget(outline, (path) => between(targetPath, path)),
    style,
  );
  // A module of the project's own is imported by where it lies.
  const isOurs = project.packages.some(({ name, kind }) => name === outline.outside && kind === "legacy");
  const written = (specifier: string) =>
    isOurs ? between(adapterPath, join(project.root, specifier)) : specifier;
  const adapter = styled(
    renderAdapter(outline, { language, target: between(adapterPath, targetPath), written }),
    style,
  );
  const byKey = new Map(outline.members.map((each) => [each.key, each]));
  const handed = new Map(outline.passedOn.map((each) => [each.key, each.handed]));
  return {
    target,
    adapter,
    destination: {
      keepsNames,
      object: outline.object,
      handsAll: (specifier) => specifier === outline.handsAll,
      // Whatever the adapter imports, it imports for what that does too.
      touches: () => true,
      of: (specifier, name) => {
        const key = exportKey(outline.outside, specifier, name);
        const passed = handed.get(key);
        if (passed !== undefined) return { handed: passed };
        const member = byKey.get(key);
        if (!member) return undefined;
        const { form, type, handed: keptName } = member;
        return {
          member: form === "type" || form === "factory" ? undefined : member.member,
          factory: form === "factory" ? member.member : undefined,
          type,
          handed: keptName,
        };
      },
      specifiers: (source) => {
        const own = endingOf(source, project.sources, project.program.importEnding());
        return {
          adapter: specifierBetween(source.path, adapterPath, own),
          target: specifierBetween(source.path, targetPath, own),
        };
      },
    },
  };
}

/** The exports that an error is about: by its line in what is drafted, or else by the types it speaks of, or its file. */
function blameFor(
  { path, offset, text }: CompileError,
  uses: OutsideUses,
  outline: Outline,
  { target, adapter }: RenderedDraft,
  { targetPath, adapterPath, outside }: ProofSettings,
): readonly string[] {
  const { members, types } = outline;
  if (path === targetPath || path === adapterPath) {
    const { text: source, keys } = path === targetPath ? target : adapter;
    return keys.get(new Lines(source).at(offset).line - 1) ?? [];
  }
  const spoken = new Set([...text.matchAll(/[\p{ID_Start}$_][\p{ID_Continue}$]*/gu)].map(([name]) => name));
  const about = types
    .filter(({ name }) => spoken.has(name))
    .flatMap(({ name }) => usersOf(name, members, types));
  if (about.length > 0) return [...new Set(about)];
  return uses.exports
    .filter(({ references }) => references.some(({ source }) => source.path === path))
    .map(({ specifier, name }) => exportKey(outside, specifier, name));
}
