import { cachedChecker } from "../compiler/cached-checker.ts";
import type { Checker } from "../compiler/typescript.ts";
import type { CompileError } from "../emit/compile-errors.ts";
import { type MovedFile, moveFile } from "../isolation/move-file.ts";
import { exportKey } from "../isolation/naming.ts";
import { usedMembersIn } from "../isolation/outside/outside-members.ts";
import type { OutsideUses } from "../isolation/outside/outside-uses.ts";
import { applyEdits } from "../isolation/text-edits.ts";
import type { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import { filesReachedFrom } from "../project/affected-files.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { OutsidePaths } from "../types/outside-paths.ts";
import { declarationKey, type WrittenMember } from "../types/writing/type-names.ts";
import { mentionsName } from "../types/writing/type-text.ts";
import type { UsedMembers } from "../uses/members/used-members.ts";
import { derivedOutline } from "./derived/derived-outline.ts";
import type { DerivedForms } from "./derived/derived-settings.ts";
import { type UsesApartFromSetUp, withoutSetUp } from "./derived/without-set-up.ts";
import {
  assertionChoice,
  exportChoice,
  type Outline,
  type OutlineMember,
  type OutlineSettings,
} from "./outline/model.ts";
import { outlineOf, outsidePathsOf } from "./outline/outline.ts";
import { REEXPORT_ALL } from "./render/adapter.ts";
import { aliasKey } from "./render/outside-types.ts";
import { type RenderedDraft, type RenderSettings, renderDraft } from "./render/rendered-draft.ts";
import { usersOf } from "./render/target.ts";
import { misfitsAt, suspectsInType, suspectsNear } from "./suspects.ts";

export interface VerifySettings
  extends RenderSettings,
    Omit<OutlineSettings, "checker" | "reexport" | "aliased" | "canReexportAll" | "paths" | "usedKeys"> {
  /** What the types of the target follow from. */
  readonly types: "used" | "declared";
}

/** A draft that compiles, with all callers moved to it. */
export interface VerifiedDraft {
  readonly outline: Outline;
  readonly target: string;
  readonly adapter: string;
  readonly outsideTypes: string;
  readonly moved: ReadonlyMap<string, MovedFile>;
  /** The members of outside objects that the project uses. */
  readonly used: UsedMembers;
  /** Errors that remain even if everything is re-exported. */
  readonly errors: readonly CompileError[];
}

/** A draft with some choices aliased, and whether the project compiles with it. */
export interface Attempt extends VerifiedDraft {
  readonly draft: RenderedDraft;
  readonly aliased: ReadonlyMap<string, string>;
  readonly isGood: boolean;
  /** All files of the draft and the moved callers, by path. */
  readonly proposed: ReadonlyMap<string, string>;
  /** Exports that keep their names, because a use of them cannot be renamed. */
  readonly unmoved: readonly string[];
}

/** In a larger project, an attempt is checked with the callers only. */
const MAX_WATCHED = 40;

/** Drafts with some choices aliased, each compiled with all callers moved. */
export class Attempts {
  readonly #project: OpenProject;
  readonly #overlays: OverlayProgram;
  readonly #uses: OutsideUses;
  readonly #settings: VerifySettings;
  readonly #used: UsedMembers;
  readonly #usedKeys: ReadonlySet<string>;
  /** The uses without the statements that set the module up. */
  readonly #apart: UsesApartFromSetUp;
  readonly #usedApart: UsedMembers;
  readonly #drafted: readonly string[];
  /** Files that can have new errors. */
  readonly #reached: ReadonlySet<string>;
  /** Those of them that each attempt is checked with. The others are checked with the result. */
  readonly #watched = new Set<string>();
  readonly #checker: Checker | undefined;
  readonly #paths: OutsidePaths;
  /** Exports to re-export, with the reasons. */
  readonly reexport = new Map<string, string>();
  #canReexportAll = true;
  /** Number of compilations so far. */
  count = 0;
  /** Number of members of each type, by its key. */
  readonly sizes = new Map<string, number>();

  constructor(project: OpenProject, overlays: OverlayProgram, uses: OutsideUses, settings: VerifySettings) {
    this.#project = project;
    this.#overlays = overlays;
    this.#uses = uses;
    this.#settings = settings;
    // The same types are read in each attempt.
    const checkers = new Map<Checker, Checker>();
    const cached = (checker: Checker) => {
      const caching = checkers.get(checker) ?? cachedChecker(checker);
      checkers.set(checker, caching);
      return caching;
    };
    const [firstUser] = uses.files;
    const checker = firstUser && project.program.checkerFor(firstUser.source.path);
    this.#checker = checker && cached(checker);
    this.#paths = outsidePathsOf(project, settings.outside, uses);
    this.#drafted = [settings.targetPath, settings.adapterPath, settings.outsideTypesPath];
    this.#reached = filesReachedFrom(
      project,
      uses.files.map(({ source }) => source.path),
    );
    this.#used = usedMembersIn(project, settings.outside, uses, cached);
    this.#apart = withoutSetUp(uses);
    this.#usedApart =
      this.#apart.setUps.length === 0
        ? this.#used
        : usedMembersIn(project, settings.outside, this.#apart.uses, cached, this.#apart.skipped);
    const isOutside = (path: string) =>
      project.packageOf(path) === settings.outside || project.describedBy(path).has(settings.outside);
    this.#usedKeys = new Set(this.#used.namedIn(isOutside).map(declarationKey));
    if (this.isLarge) for (const { source } of uses.files) this.#watched.add(source.path);
    else for (const path of this.#reached) this.#watched.add(path);
  }

  /** Whether the module affects many files. */
  get isLarge(): boolean {
    return this.#reached.size > MAX_WATCHED;
  }

  /** Drafts with types of our own everywhere. In a large project, only files with errors are watched from then on. */
  first(): Attempt {
    const attempt = this.run(new Map());
    if (this.isLarge && !attempt.isGood) {
      this.#watched.clear();
      this.watch(attempt.errors);
    }
    return attempt;
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
    this.count++;
    const outline = outlineOf(this.#project, this.#uses, this.#used, this.#outlineSettings(aliased));
    const attempt = this.#compiled(outline, aliased);
    // The compiler rejects re-exporting some modules completely, such as one with `export =`.
    const { adapterPath } = this.#settings;
    const isRejected = attempt.errors.some(
      ({ path, offset }) =>
        path === adapterPath && attempt.draft.adapter.ownersAt(offset).includes(REEXPORT_ALL),
    );
    if (!this.#canReexportAll || !isRejected) return attempt;
    this.#canReexportAll = false;
    return this.run(aliased);
  }

  /**
   * Drafts with types that follow from use, moves the callers, and compiles.
   *
   * @throws {Underivable}
   */
  runDerived({ untyped, forms, aliased }: DerivedForms): Attempt {
    this.count++;
    const outline = derivedOutline(this.#project, this.#apart, this.#usedApart, {
      ...this.#outlineSettings(aliased),
      untyped,
      forms,
    });
    return this.#compiled(outline, aliased);
  }

  /**
   * Compiles the target and the moved callers in a program in which the outside module does not exist. The adapter's
   * errors do not count, because another implementation replaces it. Earlier attempts must be compiled again.
   */
  errorsWithoutModule({ proposed, draft, outline }: Attempt): readonly CompileError[] {
    const { outside, targetPath, adapterPath, outsideTypesPath } = this.#settings;
    const isHidden = (path: string) =>
      path === outsideTypesPath ||
      [path, `${path}/`].some((place) => this.#project.packageOf(place) === outside) ||
      this.#project.describedBy(path).has(outside);
    const files = new Map([...proposed].filter(([path]) => path !== outsideTypesPath));
    const checked = [targetPath, ...this.#uses.files.map(({ source }) => source.path)];
    // The import of the file with the outside types says nothing about a member.
    const isImport = ({ path, offset }: CompileError) =>
      path === targetPath && outline.aliased.length > 0 && draft.target.ownersAt(offset).length === 0;
    return this.#overlays
      .errorsWithout(isHidden, files, checked)
      .filter((error) => error.path !== adapterPath && !isImport(error));
  }

  /** Compiles an attempt again, because others have been tried since. */
  again({ outline, aliased }: Attempt): Attempt {
    return this.#compiled(outline, aliased);
  }

  #outlineSettings(aliased: ReadonlyMap<string, string>): OutlineSettings {
    return {
      ...this.#settings,
      checker: this.#checker,
      reexport: this.reexport,
      aliased,
      canReexportAll: this.#canReexportAll,
      paths: this.#paths,
      usedKeys: this.#usedKeys,
    };
  }

  /** Renders a draft, moves the callers, and compiles both. */
  #compiled(outline: Outline, aliased: ReadonlyMap<string, string>): Attempt {
    const { targetPath, adapterPath, outsideTypesPath, outside } = this.#settings;
    const { files } = this.#uses;
    for (const { key, members = [] } of outline.types)
      this.sizes.set(key, Math.max(members.length, this.sizes.get(key) ?? 0));
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
    const exportKeys = new Set(this.keys());
    const unmoved = [...moved.values()]
      .flatMap(({ stays }) =>
        stays.flatMap(({ of }) => (of ? exportKey(outside, of.specifier, of.name) : [])),
      )
      .filter((key) => exportKeys.has(key) && !this.reexport.has(key));
    return {
      outline,
      draft,
      target: draft.target.text,
      adapter: draft.adapter.text,
      outsideTypes: draft.outsideTypes.text,
      moved,
      used: this.#used,
      errors,
      aliased,
      proposed,
      unmoved,
      isGood: errors.length === 0 && unmoved.length === 0,
    };
  }

  /** Returns the choices that an error may come from. */
  suspectsOf(error: CompileError, attempt: Attempt): readonly string[] {
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

  /** Keys of all used exports. */
  keys(): readonly string[] {
    const { outside } = this.#settings;
    return this.#uses.exports.map(({ specifier, name }) => exportKey(outside, specifier, name));
  }

  /** Returns the choices that the code at an error in the draft belongs to. */
  #choicesAt({ path, offset }: CompileError, { draft }: Attempt): readonly string[] {
    const { targetPath, adapterPath, outsideTypesPath } = this.#settings;
    const printed = new Map([
      [targetPath, draft.target],
      [adapterPath, draft.adapter],
      [outsideTypesPath, draft.outsideTypes],
    ]).get(path);
    return printed?.ownersAt(offset) ?? [];
  }

  /** Returns the exports that an error in the draft belongs to or, for a caller, those that its file uses. */
  exportsAt(error: CompileError, attempt: Attempt): readonly string[] {
    const { targetPath, adapterPath, outsideTypesPath, outside } = this.#settings;
    const { outline } = attempt;
    if ([targetPath, adapterPath, outsideTypesPath].includes(error.path)) {
      const choices = this.#choicesAt(error, attempt);
      const isNamed = ({ name, key }: { readonly name: string; readonly key?: string }) =>
        choices.includes(aliasKey(name)) || (key !== undefined && choices.includes(key));
      const users = [...outline.aliased, ...outline.types]
        .filter(isNamed)
        .flatMap(({ name }) => usersOf(name, outline));
      const direct = this.keys().filter((key) => choices.includes(exportChoice(key)));
      return [...new Set([...direct, ...users])];
    }
    return this.#uses.exports
      .filter(({ references }) => references.some(({ source }) => source.path === error.path))
      .map(({ specifier, name }) => exportKey(outside, specifier, name));
  }
}

/** Returns all members of a target and its types, with the interface that declares each. */
function membersOf({
  target,
  members,
  whole,
  types,
}: Outline): readonly (Pick<WrittenMember, "name" | "key" | "text"> & { readonly owner: string })[] {
  return [
    ...members.map(({ member, key, text }) => ({
      owner: target,
      name: member,
      key: exportChoice(key),
      text,
    })),
    ...(whole ?? []).map((member) => ({ ...member, owner: target })),
    ...members.flatMap(({ parts }) => parts.map((part) => ({ ...part, owner: "__type" }))),
    ...types.flatMap(({ name, members = [] }) => members.map((member) => ({ ...member, owner: name }))),
  ];
}
