import { join } from "node:path";
import type { CompileError } from "../isolation/compile-errors.ts";
import { type Destination, type MovedFile, moveFile } from "../isolation/move-file.ts";
import { exportKey } from "../isolation/naming.ts";
import { usedMembersIn } from "../isolation/outside-members.ts";
import type { OutsideUses } from "../isolation/outside-uses.ts";
import type { OverlayProgram } from "../isolation/overlay-program.ts";
import { endingOf, specifierBetween } from "../isolation/specifiers.ts";
import type { Style } from "../isolation/style.ts";
import { applyEdits } from "../isolation/text-edits.ts";
import { Lines } from "../place.ts";
import type { OpenProject } from "../project/open-project.ts";
import { type Outline, type OutlineSettings, outlineOf } from "./outline.ts";
import { renderAdapter } from "./render-adapter.ts";
import { renderTarget, usersOf } from "./render-target.ts";
import { type RenderedSource, styled } from "./source-builder.ts";

export interface VerifySettings extends Omit<OutlineSettings, "reexport" | "canReexportAll"> {
  /** Paths of the target's and the adapter's files. */
  readonly targetPath: string;
  readonly adapterPath: string;
  readonly style: Style;
}

/** A draft that compiles, with all callers moved to it. */
export interface VerifiedDraft {
  readonly outline: Outline;
  readonly target: string;
  readonly adapter: string;
  readonly moved: ReadonlyMap<string, MovedFile>;
  /** Errors that remain even if everything is re-exported. */
  readonly errors: readonly CompileError[];
}

/** After this many rounds, everything left is re-exported. */
const MAX_ROUNDS = 12;

/**
 * Drafts a target and its adapter, and compiles them with all callers moved. The exports that cause an error
 * are re-exported instead, until no error is left.
 */
export function verifyDraft(
  project: OpenProject,
  overlays: OverlayProgram,
  uses: OutsideUses,
  settings: VerifySettings,
): VerifiedDraft {
  const used = usedMembersIn(project, uses);
  const reexport = new Map<string, string>();
  let canReexportAll = true;
  if (uses.files.length === 0) {
    const outline = outlineOf(project, uses, used, { ...settings, reexport, canReexportAll });
    return { outline, target: "", adapter: "", moved: new Map(), errors: [] };
  }
  const all = uses.exports.map(({ specifier, name }) => exportKey(settings.outside, specifier, name));
  for (let round = 1; ; round++) {
    const outline = outlineOf(project, uses, used, { ...settings, reexport, canReexportAll });
    const draft = renderDraft(project, outline, settings);
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
    const errors = overlays.errorsWith(files);
    if (
      canReexportAll &&
      errors.some((error) => isAtReexportAll(error, settings.adapterPath, draft.adapter.text))
    ) {
      canReexportAll = false;
      continue;
    }
    const blamed = errors.flatMap((error) => {
      const keys = memberAtFault(error, uses, outline, draft, settings).filter((key) => !reexport.has(key));
      return keys.map((key) => [key, error] as const);
    });
    // An export that cannot be renamed at its uses keeps its name.
    const kept = [...moved.values()].flatMap(({ stays }) =>
      stays.flatMap(({ of }) => (of ? exportKey(settings.outside, of.specifier, of.name) : [])),
    );
    const unmoved = kept.filter((key) => all.includes(key) && !reexport.has(key));
    for (const key of unmoved) reexport.set(key, "it is used in a way that prevents renaming it");
    if (unmoved.length > 0 && round < MAX_ROUNDS) continue;
    const isLast = errors.length === 0 || (blamed.length === 0 && all.every((key) => reexport.has(key)));
    if (isLast) {
      return { outline, target: draft.target.text, adapter: draft.adapter.text, moved, errors };
    }
    const [first] = errors;
    const reason = (error: CompileError | undefined) =>
      `with a type of our own, the compiler reports: ${shortened(error?.text ?? "")}`;
    for (const [key, error] of blamed) reexport.set(key, reason(error));
    if (blamed.length === 0 || round >= MAX_ROUNDS)
      for (const key of all) if (!reexport.has(key)) reexport.set(key, reason(first));
  }
}

/** Whether the compiler rejects re-exporting a whole module, such as one with `export =`. */
function isAtReexportAll({ path, offset }: CompileError, adapterPath: string, adapter: string): boolean {
  return (
    path === adapterPath &&
    /^export \* from/.test(adapter.split("\n")[new Lines(adapter).at(offset).line - 1] ?? "")
  );
}

const MAX_TEXT = 140;

function shortened(text: string): string {
  return text.length > MAX_TEXT ? `${text.slice(0, MAX_TEXT - 1)}…` : text;
}

interface RenderedDraft {
  readonly target: RenderedSource;
  readonly adapter: RenderedSource;
  readonly destination: Destination;
}

function renderDraft(project: OpenProject, outline: Outline, settings: VerifySettings): RenderedDraft {
  const { targetPath, adapterPath, language, style, keepsNames } = settings;
  const ending = endingOf(undefined, project.sources, project.program.importEnding());
  const between = (from: string, to: string) => specifierBetween(from, to, ending);
  const target = styled(
    renderTarget(outline, (path) => between(targetPath, path)),
    style,
  );
  // A module of the project is imported by its path.
  const isOurs = project.packages.some(({ name, kind }) => name === outline.outside && kind === "legacy");
  const written = (specifier: string) =>
    isOurs ? between(adapterPath, join(project.root, specifier)) : specifier;
  const adapter = styled(
    renderAdapter(outline, { language, target: between(adapterPath, targetPath), written }),
    style,
  );
  const byKey = new Map(outline.members.map((member) => [member.key, member]));
  const handed = new Map(outline.reexports.map((reexport) => [reexport.key, reexport.reexportedAs]));
  return {
    target,
    adapter,
    destination: {
      keepsNames,
      object: outline.object,
      reexportsAll: (specifier) => specifier === outline.reexportsAll,
      // Every import of the adapter also runs the module's side effects.
      touches: () => true,
      of: (specifier, name) => {
        const key = exportKey(outline.outside, specifier, name);
        const passed = handed.get(key);
        if (passed !== undefined) return { reexportedAs: passed };
        const member = byKey.get(key);
        if (!member) return undefined;
        const { form, type, reexportedAs: keptName } = member;
        return {
          member: form === "type" || form === "factory" ? undefined : member.member,
          factory: form === "factory" ? member.member : undefined,
          type,
          reexportedAs: keptName,
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

/**
 * Returns the exports that cause an error: by its line in the draft, or else by the types in its text, or its
 * file.
 */
function memberAtFault(
  { path, offset, text }: CompileError,
  uses: OutsideUses,
  outline: Outline,
  { target, adapter }: RenderedDraft,
  { targetPath, adapterPath, outside }: VerifySettings,
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
