import { join } from "node:path";
import { cachedChecker } from "../compiler/cached-checker.ts";
import type { Checker } from "../compiler/typescript.ts";
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
import { filesReachedFrom } from "../project/affected-files.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { OutsidePaths } from "../types/outside-paths.ts";
import type { WrittenMember } from "../types/type-names.ts";
import { mentionsName } from "../types/type-text.ts";
import type { UsedMembers } from "../uses/used-members.ts";
import {
  assertionChoice,
  exportChoice,
  type Outline,
  type OutlineMember,
  type OutlineSettings,
  outlineOf,
  outsidePathsOf,
} from "./outline.ts";
import { qualityOf } from "./quality.ts";
import { renderAdapter } from "./render/adapter.ts";
import { aliasKey, renderOutsideTypes } from "./render/outside-types.ts";
import { type RenderedSource, styled } from "./render/source-builder.ts";
import { renderTarget, usersOf } from "./render/target.ts";
import { misfitsAt, suspectsInType, suspectsNear } from "./suspects.ts";

export interface VerifySettings
  extends Omit<OutlineSettings, "checker" | "reexport" | "aliased" | "canReexportAll" | "paths"> {
  /** Paths of the target's and the adapter's files, and of the file with the outside types. */
  readonly targetPath: string;
  readonly adapterPath: string;
  readonly outsideTypesPath: string;
  readonly style: Style;
}

/** A draft that compiles, with all callers moved to it. */
export interface VerifiedDraft {
  readonly outline: Outline;
  readonly target: string;
  readonly adapter: string;
  readonly outsideTypes: string;
  readonly moved: ReadonlyMap<string, MovedFile>;
  /** Errors that remain even if everything is re-exported. */
  readonly errors: readonly CompileError[];
}

/** Maximum number of rounds until what must be re-exported is known. */
const MAX_ROUNDS = 12;

/**
 * Drafts a target and its adapter, and compiles them with all callers moved. Everything has a type of our own
 * for which the project still compiles; the rest is aliased, and re-exported where that is not enough.
 */
export function verifyDraft(
  project: OpenProject,
  overlays: OverlayProgram,
  uses: OutsideUses,
  settings: VerifySettings,
): VerifiedDraft {
  const attempts = new Attempts(project, overlays, uses, settings);
  let start = attempts.first();
  for (;;) {
    const best = attempts.best(start);
    const errors = attempts.errorsElsewhere(best);
    if (errors.length === 0) return best;
    if (!attempts.watch(errors)) return { ...best, errors };
    start = { ...best, errors, isGood: false };
  }
}

/** A draft with some choices aliased, and whether the project compiles with it. */
interface Attempt extends VerifiedDraft {
  readonly draft: RenderedDraft;
  readonly aliased: ReadonlyMap<string, string>;
  readonly isGood: boolean;
  /** Exports that keep their names, because a use of them cannot be renamed. */
  readonly unmoved: readonly string[];
}

class Attempts {
  readonly #project: OpenProject;
  readonly #overlays: OverlayProgram;
  readonly #uses: OutsideUses;
  readonly #settings: VerifySettings;
  readonly #used: UsedMembers;
  readonly #drafted: readonly string[];
  /** Files that can have new errors. */
  readonly #reached: ReadonlySet<string>;
  /** Those of them that each attempt is checked with. The others are checked with the result. */
  readonly #watched = new Set<string>();
  /** Choices that were tried one by one without success. */
  readonly #settled = new Set<string>();
  readonly #checker: Checker | undefined;
  readonly #paths: OutsidePaths;
  readonly #reexport = new Map<string, string>();
  #canReexportAll = true;
  #attempts = 0;
  /** Number of members of each type, by its key. */
  readonly #sizes = new Map<string, number>();

  constructor(project: OpenProject, overlays: OverlayProgram, uses: OutsideUses, settings: VerifySettings) {
    this.#project = project;
    this.#overlays = overlays;
    this.#uses = uses;
    this.#settings = settings;
    // The same types are read in each attempt.
    const checkers = new Map<Checker, Checker>();
    const cached = (checker: Checker) => {
      const known = checkers.get(checker) ?? cachedChecker(checker);
      checkers.set(checker, known);
      return known;
    };
    const [first] = uses.files;
    const checker = first && project.program.checkerFor(first.source.path);
    this.#checker = checker && cached(checker);
    this.#paths = outsidePathsOf(project, settings.outside, uses);
    this.#drafted = [settings.targetPath, settings.adapterPath, settings.outsideTypesPath];
    this.#reached = filesReachedFrom(
      project,
      uses.files.map(({ source }) => source.path),
    );
    this.#used = usedMembersIn(project, settings.outside, uses, cached);
  }

  get #isLarge(): boolean {
    return this.#reached.size > MAX_WATCHED;
  }

  /** Drafts with types of our own everywhere. In a large project, only files with errors are watched from then on. */
  first(): Attempt {
    if (this.#isLarge) for (const { source } of this.#uses.files) this.#watched.add(source.path);
    else for (const path of this.#reached) this.#watched.add(path);
    const attempt = this.run(new Map());
    if (this.#isLarge && !attempt.isGood) {
      this.#watched.clear();
      this.watch(attempt.errors);
    }
    return attempt;
  }

  /** Returns the best draft for which the watched files compile, from an attempt that may have errors. */
  best(start: Attempt): Attempt {
    if (start.isGood) return start;
    const few = this.withFewestAliased(start);
    const found = few && this.raise(few);
    // From more aliases, the search may end with fewer. A large project takes too long for both.
    if (found && (this.#isLarge || found.aliased.size === 0)) return this.#settle(found);
    const all = this.withoutSuspects(this.run(start.aliased));
    const other = all && this.raise(all);
    const [first, second] = [found, other].flatMap((attempt) => attempt ?? []);
    if (first && second) return this.#settle(ownMembersOf(second) > ownMembersOf(first) ? second : first);
    if (first) return this.#settle(first);
    const lowest = this.lowest(start);
    return lowest.isGood ? this.#settle(this.raise(lowest)) : lowest;
  }

  /** Compiles a result again, because others may have been tried since, and excludes its aliases from later searches. */
  #settle({ aliased }: Attempt): Attempt {
    for (const key of aliased.keys()) this.#settled.add(key);
    return this.run(aliased);
  }

  /** Returns the errors in files that are not watched, for the last attempt. */
  errorsElsewhere({ isGood }: Attempt): readonly CompileError[] {
    if (!isGood) return [];
    return this.#overlays.newErrorsIn([...this.#reached].filter((path) => !this.#watched.has(path)));
  }

  /** Watches the files of errors; `false` if they are watched already. */
  watch(errors: readonly CompileError[]): boolean {
    const before = this.#watched.size;
    for (const { path } of errors) this.#watched.add(path);
    return this.#watched.size > before;
  }

  /** Drafts with some choices aliased, moves the callers, and compiles. */
  run(aliased: ReadonlyMap<string, string>): Attempt {
    this.#attempts++;
    const { targetPath, adapterPath, outsideTypesPath, outside } = this.#settings;
    const { files } = this.#uses;
    const outline = outlineOf(this.#project, this.#uses, this.#used, {
      ...this.#settings,
      checker: this.#checker,
      reexport: this.#reexport,
      aliased,
      canReexportAll: this.#canReexportAll,
      paths: this.#paths,
    });
    for (const { key, members = [] } of outline.types)
      this.#sizes.set(key, Math.max(members.length, this.#sizes.get(key) ?? 0));
    const draft = renderDraft(this.#project, outline, this.#settings);
    const moved = new Map(
      files.map(({ source, sites, imported }) => [
        source.path,
        moveFile(source, sites, imported, draft.destination),
      ]),
    );
    const proposed = new Map([
      [targetPath, draft.target.text],
      ...(outline.aliased.length > 0 ? [[outsideTypesPath, draft.outsideTypes.text] as const] : []),
      [adapterPath, draft.adapter.text],
      ...files.map(
        ({ source }) => [source.path, applyEdits(source.text, moved.get(source.path)?.edits ?? [])] as const,
      ),
    ]);
    const errors =
      files.length === 0 ? [] : this.#overlays.errorsWithin(proposed, [...this.#drafted, ...this.#watched]);
    if (
      this.#canReexportAll &&
      errors.some((error) => isAtReexportAll(error, adapterPath, draft.adapter.text))
    ) {
      this.#canReexportAll = false;
      return this.run(aliased);
    }
    const all = new Set(this.#keys());
    const unmoved = [...moved.values()]
      .flatMap(({ stays }) =>
        stays.flatMap(({ of }) => (of ? exportKey(outside, of.specifier, of.name) : [])),
      )
      .filter((key) => all.has(key) && !this.#reexport.has(key));
    return {
      outline,
      draft,
      target: draft.target.text,
      adapter: draft.adapter.text,
      outsideTypes: draft.outsideTypes.text,
      moved,
      errors,
      aliased,
      unmoved,
      isGood: errors.length === 0 && unmoved.length === 0,
    };
  }

  /** Aliases as few choices as the errors seem to need; `undefined` if errors remain. */
  withFewestAliased(first: Attempt): Attempt | undefined {
    const aliased = new Map(first.aliased);
    let attempt = first;
    for (let round = 1; round <= MAX_COVERED; round++) {
      const cover = this.#coverOf(attempt);
      if (cover.size === 0) return undefined;
      for (const [key, error] of cover) aliased.set(key, reportedBy(error));
      attempt = this.run(aliased);
      if (attempt.isGood) return attempt;
    }
    return undefined;
  }

  /** Returns choices such that each error may come from one of them: always the one behind most errors next. */
  #coverOf(attempt: Attempt): ReadonlyMap<string, CompileError> {
    const cover = new Map<string, CompileError>();
    const isOpen = (key: string) => !attempt.aliased.has(key);
    // The compiler reports an opaque type without its name.
    const opaque = attempt.outline.types.filter(({ rung }) => rung === "opaque").map(({ key }) => key);
    let open = attempt.errors.map((error) => {
      const suspects = this.#suspectsOf(error, attempt).filter(isOpen);
      return { error, suspects: new Set(suspects.length > 0 ? suspects : opaque.filter(isOpen)) };
    });
    for (;;) {
      const counts = new Map<string, number>();
      for (const { suspects } of open)
        for (const key of suspects) counts.set(key, (counts.get(key) ?? 0) + 1);
      const size = (key: string) => this.#sizes.get(key) ?? 0;
      const [best] = [...counts].sort(
        ([left, most], [right, other]) => other - most || size(left) - size(right),
      );
      if (!best) return cover;
      const [key] = best;
      const covered = open.find(({ suspects }) => suspects.has(key));
      if (covered) cover.set(key, covered.error);
      open = open.filter(({ suspects }) => !suspects.has(key));
    }
  }

  /** Aliases what the errors have to do with; `undefined` if errors remain. */
  withoutSuspects(first: Attempt): Attempt | undefined {
    const aliased = new Map(first.aliased);
    let attempt = first;
    for (let round = 1; round <= MAX_SUSPECTED; round++) {
      const before = aliased.size;
      for (const error of attempt.errors)
        for (const key of this.#suspectsOf(error, attempt))
          if (!aliased.has(key)) aliased.set(key, NOT_TRIED);
      if (aliased.size === before) return undefined;
      attempt = this.run(aliased);
      if (attempt.isGood) return attempt;
    }
    return undefined;
  }

  /** Returns the choices that an error may come from. */
  #suspectsOf(error: CompileError, attempt: Attempt): readonly string[] {
    const { targetPath, adapterPath, outsideTypesPath } = this.#settings;
    const { outline } = attempt;
    const possible = new Set(outline.choices);
    if (![targetPath, adapterPath, outsideTypesPath].includes(error.path)) {
      const { types, members } = suspectsNear(this.#overlays.program, error, targetPath);
      return [
        ...outline.types.filter(({ name }) => types.has(name)).map(({ key }) => key),
        ...membersOf(outline).flatMap(({ owner, name, key }) =>
          members.has(`${owner}.${name}`) ? (key ?? []) : [],
        ),
      ].filter((key) => possible.has(key));
    }
    const named = this.#choicesAt(error, attempt);
    if (error.path === adapterPath) {
      const asserted = outline.assertions
        .filter((key) => named.includes(exportChoice(key)))
        .map(assertionChoice)
        .filter((key) => !attempt.aliased.has(key));
      if (asserted.length > 0) return asserted;
    }
    if (error.path === targetPath) {
      const types = suspectsInType(this.#overlays.program, error, targetPath);
      const near = outline.types.filter(({ name }) => types.has(name)).map(({ key }) => key);
      return [...named, ...near].filter((key) => possible.has(key));
    }
    if (error.path !== adapterPath) return named.filter((key) => possible.has(key));
    const misfits = misfitsAt(this.#overlays.program, error);
    const isNamed = ({ key }: OutlineMember) => named.includes(exportChoice(key));
    const parts = outline.members
      .filter(isNamed)
      .flatMap(({ form, parts }) => (form === "whole" ? (outline.whole ?? []) : parts))
      .filter(({ name }) => misfits.includes(name));
    const types = outline.types.filter(({ name }) =>
      parts.length > 0
        ? parts.some(({ text }) => mentionsName(text, name))
        : usersOf(name, outline).some((key) => named.includes(exportChoice(key))),
    );
    const members = parts.length > 0 ? parts.flatMap(({ key }) => key ?? []) : named;
    return [...members, ...types.map(({ key }) => key)].filter((key) => possible.has(key));
  }

  /** Hands everything on, and re-exports the exports for which that is not enough. */
  lowest(first: Attempt): Attempt {
    const aliased = new Map<string, string>();
    const all = this.#keys();
    let attempt = first;
    for (let round = 1; ; round++) {
      for (const key of attempt.outline.choices) if (!aliased.has(key)) aliased.set(key, NOT_TRIED);
      const next = this.run(aliased);
      const isKnown = next.outline.choices.every((key) => aliased.has(key));
      if (isKnown && (next.isGood || all.every((key) => this.#reexport.has(key)))) return next;
      if (isKnown) {
        for (const key of next.unmoved)
          this.#reexport.set(key, "it is used in a way that prevents renaming it");
        const blamed = next.errors.flatMap((error) =>
          this.#exportsAt(error, next)
            .filter((key) => !this.#reexport.has(key))
            .map((key) => [key, error] as const),
        );
        for (const [key, error] of blamed) this.#reexport.set(key, reportedBy(error));
        if ((blamed.length === 0 && next.unmoved.length === 0) || round >= MAX_ROUNDS)
          for (const key of all)
            if (!this.#reexport.has(key)) this.#reexport.set(key, reportedBy(next.errors[0]));
      }
      attempt = next;
    }
  }

  /**
   * Gives types of our own to all choices for which the project still compiles. Whether types or members come
   * first decides which of them is aliased where one of them must be; the better result is returned.
   */
  raise(lowest: Attempt): Attempt {
    const isType = (key: string) => !/^(assertion|export|member) /.test(key);
    const keys = [...lowest.aliased.keys()].filter((key) => !this.#settled.has(key));
    const types = keys
      .filter(isType)
      .sort((left, right) => (this.#sizes.get(right) ?? 0) - (this.#sizes.get(left) ?? 0));
    const members = keys.filter((key) => !isType(key));
    const first = this.#raiseInOrder(lowest, [types, members]);
    const isMixed = [...first.aliased.keys()].some(isType) || types.length > 0;
    const second =
      isMixed && first.aliased.size > 0 && members.length > 0
        ? this.#raiseInOrder(lowest, [members, types])
        : first;
    return ownMembersOf(second) > ownMembersOf(first) ? second : first;
  }

  #raiseInOrder(lowest: Attempt, groups: readonly (readonly string[])[]): Attempt {
    let best = lowest;
    /** Returns whether all of them could be raised; `isBad` if it is known that they cannot. */
    const raise = (keys: readonly string[], isBad = false): boolean => {
      if (keys.length === 0) return true;
      if (this.#attempts >= (this.#isLarge ? MAX_ATTEMPTS_IF_LARGE : MAX_ATTEMPTS)) return false;
      const [only] = keys;
      if (!isBad || keys.length === 1) {
        const aliased = new Map(best.aliased);
        for (const key of keys) aliased.delete(key);
        const attempt = this.run(aliased);
        if (attempt.isGood) best = attempt;
        if (attempt.isGood) return true;
        if (keys.length === 1 && only !== undefined)
          best = { ...best, aliased: new Map(best.aliased).set(only, reportedBy(attempt.errors[0])) };
      }
      if (keys.length === 1) return false;
      const half = Math.ceil(keys.length / 2);
      const isFirstRaised = raise(keys.slice(0, half));
      return raise(keys.slice(half), isFirstRaised) && isFirstRaised;
    };
    for (let pass = 1; pass <= MAX_PASSES; pass++) {
      const before = best.aliased.size;
      for (const group of groups) raise(group.filter((key) => best.aliased.has(key)));
      // What was raised later may allow what could not be raised before.
      if (best.aliased.size === before || best.aliased.size === 0) break;
    }
    return best;
  }

  #keys(): readonly string[] {
    const { outside } = this.#settings;
    return this.#uses.exports.map(({ specifier, name }) => exportKey(outside, specifier, name));
  }

  /** Returns the choices at an error's line in the draft. */
  #choicesAt({ path, offset }: CompileError, { draft }: Attempt): readonly string[] {
    const { targetPath, adapterPath, outsideTypesPath } = this.#settings;
    const rendered = new Map([
      [targetPath, draft.target],
      [adapterPath, draft.adapter],
      [outsideTypesPath, draft.outsideTypes],
    ]).get(path);
    return rendered?.keys.get(new Lines(rendered.text).at(offset).line - 1) ?? [];
  }

  /** Returns the exports that an error in the draft belongs to or, for a caller, those that its file uses. */
  #exportsAt(error: CompileError, attempt: Attempt): readonly string[] {
    const { targetPath, adapterPath, outsideTypesPath, outside } = this.#settings;
    const { outline } = attempt;
    if ([targetPath, adapterPath, outsideTypesPath].includes(error.path)) {
      const choices = this.#choicesAt(error, attempt);
      const isNamed = ({ name, key }: { readonly name: string; readonly key?: string }) =>
        choices.includes(aliasKey(name)) || (key !== undefined && choices.includes(key));
      const users = [...outline.aliased, ...outline.types]
        .filter(isNamed)
        .flatMap(({ name }) => usersOf(name, outline));
      const direct = this.#keys().filter((key) => choices.includes(exportChoice(key)));
      return [...new Set([...direct, ...users])];
    }
    return this.#uses.exports
      .filter(({ references }) => references.some(({ source }) => source.path === error.path))
      .map(({ specifier, name }) => exportKey(outside, specifier, name));
  }
}

/** In a larger project, an attempt is checked with the callers only. */
const MAX_WATCHED = 40;

/** Maximum number of rounds in which few suspects are aliased. */
const MAX_COVERED = 10;

/** Maximum number of rounds in which suspects are collected. */
const MAX_SUSPECTED = 4;

/** After this many compilations, what is still aliased stays so. */
const MAX_ATTEMPTS = 40;

/** The same for a large project, where each compilation takes longer. */
const MAX_ATTEMPTS_IF_LARGE = 20;

/** Maximum number of times that everything aliased is tried again. */
const MAX_PASSES = 2;

const NOT_TRIED = "it depends on other types that are aliased";

/** Returns all members of a target and its types, with the interface that declares each. */
function membersOf({
  target,
  members,
  whole,
  types,
}: Outline): readonly (WrittenMember & { readonly owner: string })[] {
  return [
    ...members.map(({ member, key, text }) => ({
      owner: target,
      name: member,
      key: exportChoice(key),
      text,
      doc: undefined,
    })),
    ...(whole ?? []).map((member) => ({ ...member, owner: target })),
    ...members.flatMap(({ parts }) => parts.map((part) => ({ ...part, owner: "__type" }))),
    ...types.flatMap(({ name, members = [] }) => members.map((member) => ({ ...member, owner: name }))),
  ];
}

function ownMembersOf({ outline }: Attempt): number {
  return qualityOf(outline).members.own;
}

function reportedBy(error: CompileError | undefined): string {
  return `with a type of our own, the compiler reports: ${shortened(error?.text ?? "an error in a caller")}`;
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
  readonly outsideTypes: RenderedSource;
  readonly adapter: RenderedSource;
  readonly destination: Destination;
}

function renderDraft(project: OpenProject, outline: Outline, settings: VerifySettings): RenderedDraft {
  const { targetPath, adapterPath, outsideTypesPath, language, style, keepsNames } = settings;
  const ending = endingOf(undefined, project.sources, project.program.importEnding());
  const between = (from: string, to: string) => specifierBetween(from, to, ending);
  const target = styled(
    renderTarget(outline, {
      specifierOf: (path) => between(targetPath, path),
      outsideTypes: between(targetPath, outsideTypesPath),
    }),
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
  const outsideTypes = styled(renderOutsideTypes(outline, written), style);
  const byKey = new Map(outline.members.map((member) => [member.key, member]));
  const handed = new Map(outline.reexports.map((reexport) => [reexport.key, reexport.reexportedAs]));
  return {
    target,
    adapter,
    outsideTypes,
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
        const [base = name, ...nested] = name.split(".");
        if (!member && nested.length > 0) {
          const isHanded = handed.get(exportKey(outline.outside, specifier, base)) === base;
          return isHanded ? { reexportedAs: name } : undefined;
        }
        if (!member) return undefined;
        const { form, type, reexportedAs: keptName } = member;
        return {
          member: form === "type" || form === "factory" ? undefined : member.member,
          factory: form === "factory" ? member.member : member.factory?.member,
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
