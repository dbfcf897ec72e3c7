import type { CompileError } from "../emit/compile-errors.ts";
import type { OutsideUses } from "../isolation/outside/outside-uses.ts";
import type { OverlayProgram } from "../isolation/verification/overlay-program.ts";
import type { OpenProject } from "../project/open-project.ts";
import { type Attempt, Attempts, type VerifiedDraft, type VerifySettings } from "./attempts.ts";
import { derivedDraft } from "./derived/derived-draft.ts";
import { type Independence, independenceOf } from "./independence/independence.ts";
import { outsideMentions } from "./independence/outside-mentions.ts";
import { countUnlisted, usedTargetMembers } from "./independence/used-target-members.ts";

/** A draft that compiles, whose independence of the outside module can be tested. */
export interface TestableDraft extends VerifiedDraft {
  /** Compiles it without the outside module. The program is without it from then on. */
  readonly independence: () => Independence;
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
): TestableDraft {
  const attempts = new Attempts(project, overlays, uses, settings);
  const attempt = compiledDraft(attempts, settings);
  return {
    ...attempt,
    independence: () => {
      const errors = attempts.errorsWithoutModule(attempt);
      return independenceOf(attempt, errors, (error) => attempts.suspectsOf(error, attempt));
    },
  };
}

function compiledDraft(attempts: Attempts, settings: VerifySettings): Attempt {
  const search = new Search(attempts);
  const derived = derivedDraft(attempts, settings);
  if (derived && derived.outline.aliased.length === 0) return derived;
  let start = attempts.first();
  for (;;) {
    const best = search.best(start);
    const errors = attempts.errorsElsewhere(best);
    if (errors.length === 0 && derived && scoreOf(derived) >= scoreOf(best)) return attempts.again(derived);
    if (errors.length === 0) return best;
    if (!attempts.watch(errors)) return { ...best, errors };
    start = { ...best, errors, isGood: false };
  }
}

/** Searches the aliases with which a project compiles, and as few of them as possible. */
class Search {
  readonly #attempts: Attempts;
  /** Choices that were tried one by one without success. */
  readonly #settled = new Set<string>();

  constructor(attempts: Attempts) {
    this.#attempts = attempts;
  }

  /** Returns the best draft for which the watched files compile, from an attempt that may have errors. */
  best(start: Attempt): Attempt {
    if (start.isGood) return start;
    const few = this.withFewestAliased(start);
    const fromFew = few && this.raise(few);
    // From more aliases, the search may end with fewer. A large project takes too long for both.
    if (fromFew && (this.#attempts.isLarge || fromFew.aliased.size === 0)) return this.#settle(fromFew);
    const withoutAny = this.withoutSuspects(this.#attempts.run(start.aliased));
    const fromAll = withoutAny && this.raise(withoutAny);
    const [best, second] = [fromFew, fromAll].flatMap((attempt) => attempt ?? []);
    if (best && second) return this.#settle(scoreOf(second) > scoreOf(best) ? second : best);
    if (best) return this.#settle(best);
    const lowest = this.lowest(start);
    return lowest.isGood ? this.#settle(this.raise(lowest)) : lowest;
  }

  /** Compiles a result again, because others may have been tried since, and excludes its aliases from later searches. */
  #settle({ aliased }: Attempt): Attempt {
    for (const key of aliased.keys()) this.#settled.add(key);
    return this.#attempts.run(aliased);
  }

  /** Aliases as few choices as the errors seem to need; `undefined` if errors remain. */
  withFewestAliased(start: Attempt): Attempt | undefined {
    const aliased = new Map(start.aliased);
    let attempt = start;
    for (let round = 1; round <= MAX_COVERED; round++) {
      const cover = this.#coverOf(attempt);
      if (cover.size === 0) return undefined;
      for (const [key, error] of cover) aliased.set(key, reportedBy(error));
      attempt = this.#attempts.run(aliased);
      if (attempt.isGood) return attempt;
    }
    return undefined;
  }

  /** Returns choices such that each error may come from one of them: always the one behind most errors next. */
  #coverOf(attempt: Attempt): ReadonlyMap<string, CompileError> {
    const cover = new Map<string, CompileError>();
    const isOpen = (key: string) => !attempt.aliased.has(key);
    // The compiler reports an opaque type without its name.
    const opaque = attempt.outline.types.filter(({ form }) => form === "opaque").map(({ key }) => key);
    let open = attempt.errors.map((error) => {
      const suspects = this.#attempts.suspectsOf(error, attempt).filter(isOpen);
      return { error, suspects: new Set(suspects.length > 0 ? suspects : opaque.filter(isOpen)) };
    });
    for (;;) {
      const counts = new Map<string, number>();
      for (const { suspects } of open)
        for (const key of suspects) counts.set(key, (counts.get(key) ?? 0) + 1);
      const size = (key: string) => this.#attempts.sizes.get(key) ?? 0;
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
  withoutSuspects(start: Attempt): Attempt | undefined {
    const aliased = new Map(start.aliased);
    let attempt = start;
    for (let round = 1; round <= MAX_SUSPECTED; round++) {
      const before = aliased.size;
      for (const error of attempt.errors)
        for (const key of this.#attempts.suspectsOf(error, attempt))
          if (!aliased.has(key)) aliased.set(key, NOT_TRIED);
      if (aliased.size === before) return undefined;
      attempt = this.#attempts.run(aliased);
      if (attempt.isGood) return attempt;
    }
    return undefined;
  }

  /** Aliases everything, and re-exports the exports for which that is not enough. */
  lowest(start: Attempt): Attempt {
    const aliased = new Map<string, string>();
    const exportKeys = this.#attempts.keys();
    let attempt = start;
    for (let round = 1; ; round++) {
      for (const key of attempt.outline.choices) if (!aliased.has(key)) aliased.set(key, NOT_TRIED);
      const next = this.#attempts.run(aliased);
      const isKnown = next.outline.choices.every((key) => aliased.has(key));
      if (isKnown && (next.isGood || exportKeys.every((key) => this.#attempts.reexport.has(key))))
        return next;
      if (isKnown) {
        for (const key of next.unmoved)
          this.#attempts.reexport.set(key, "it is used in a way that prevents renaming it");
        const blamed = next.errors.flatMap((error) =>
          this.#attempts
            .exportsAt(error, next)
            .filter((key) => !this.#attempts.reexport.has(key))
            .map((key) => [key, error] as const),
        );
        for (const [key, error] of blamed) this.#attempts.reexport.set(key, reportedBy(error));
        if ((blamed.length === 0 && next.unmoved.length === 0) || round >= MAX_ROUNDS)
          for (const key of exportKeys)
            if (!this.#attempts.reexport.has(key))
              this.#attempts.reexport.set(key, reportedBy(next.errors[0]));
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
      .sort((left, right) => (this.#attempts.sizes.get(right) ?? 0) - (this.#attempts.sizes.get(left) ?? 0));
    const members = keys.filter((key) => !isType(key));
    const typesFirst = this.#raiseInOrder(lowest, [types, members]);
    const isMixed = [...typesFirst.aliased.keys()].some(isType) || types.length > 0;
    const second =
      isMixed && typesFirst.aliased.size > 0 && members.length > 0
        ? this.#raiseInOrder(lowest, [members, types])
        : typesFirst;
    return scoreOf(second) > scoreOf(typesFirst) ? second : typesFirst;
  }

  #raiseInOrder(lowest: Attempt, groups: readonly (readonly string[])[]): Attempt {
    let best = lowest;
    /** Returns whether all of them could be raised; `isBad` if it is known that they cannot. */
    const raise = (keys: readonly string[], isBad = false): boolean => {
      if (keys.length === 0) return true;
      if (this.#attempts.count >= (this.#attempts.isLarge ? MAX_ATTEMPTS_IF_LARGE : MAX_ATTEMPTS))
        return false;
      const [onlyKey] = keys;
      if (!isBad || keys.length === 1) {
        const aliased = new Map(best.aliased);
        for (const key of keys) aliased.delete(key);
        const attempt = this.#attempts.run(aliased);
        if (attempt.isGood) best = attempt;
        if (attempt.isGood) return true;
        if (keys.length === 1 && onlyKey !== undefined)
          best = { ...best, aliased: new Map(best.aliased).set(onlyKey, reportedBy(attempt.errors[0])) };
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
}

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

/** How many more of the used members have types of their own than not. */
function scoreOf({ outline }: Attempt): number {
  const members = usedTargetMembers(outline);
  return members.length - 2 * outsideMentions(outline, members).size - countUnlisted(outline);
}

function reportedBy(error: CompileError | undefined): string {
  return `with a type of our own, the compiler reports: ${shortened(error?.text ?? "an error in a caller")}`;
}

const MAX_TEXT = 140;

function shortened(text: string): string {
  return text.length > MAX_TEXT ? `${text.slice(0, MAX_TEXT - 1)}…` : text;
}
