import type { UseKind } from "../compiler/uses.ts";
import type { ImportForm } from "../parser/module-record.ts";
import { comparePlaces, compareText, type Place } from "../place.ts";
import type { OutsidePackage } from "../project/open-project.ts";

/** What was found in a project, before it is counted. */
export interface SurveyFacts {
  readonly fileCount: number;
  readonly packages: readonly OutsidePackage[];
  readonly imports: readonly {
    readonly package: string;
    readonly place: Place;
    readonly forms: readonly ImportForm[];
  }[];
  readonly uses: readonly {
    readonly package: string;
    readonly member: string;
    readonly kind: UseKind;
    readonly place: Place;
  }[];
  readonly leaks: readonly (Leak & { readonly package: string })[];
}

/** An exported declaration that shows an outside type. */
export interface Leak {
  readonly export: string;
  readonly place: Place;
  /** What it shows: the type's name, or `*` for all that a package exports. */
  readonly shows: string;
  readonly how: "declared" | "inferred" | "re-exported";
}

/** Where outside code reaches into a project. Lists are in a stable order. */
export interface Survey {
  readonly files: number;
  /** Those it would pay most to isolate come first. */
  readonly packages: readonly PackageSurvey[];
}

export interface PackageSurvey {
  readonly name: string;
  readonly version: string | null;
  readonly isInstalled: boolean;
  /** Those that import it, and those that use what it declares without importing it themselves. */
  readonly files: readonly string[];
  readonly imports: readonly { readonly place: Place; readonly forms: readonly ImportForm[] }[];
  readonly members: readonly MemberUse[];
  readonly leaks: readonly Leak[];
  readonly verdict: Verdict;
}

/** What is used of a package. */
export interface MemberUse {
  readonly member: string;
  readonly uses: number;
  readonly kinds: Readonly<Partial<Record<UseKind, number>>>;
  readonly places: readonly Place[];
}

/**
 * What isolating a package would bring, and take.
 *
 * `spread` is the number of files that a change of the package can reach at once: those that import or use it, and two more
 * for each leak, since every caller of what leaks depends on the package too. `effort` is the square root of the
 * number of members that an adapter would have to offer, as they come in families. `score` is the one divided by
 * the other.
 */
export interface Verdict {
  readonly spread: number;
  readonly effort: number;
  readonly score: number;
}

/** Counts what was found, package by package. */
export function surveyOf({ fileCount, packages, imports, uses, leaks }: SurveyFacts): Survey {
  const surveyed = packages.map(({ name, version, isInstalled }): PackageSurvey => {
    const own = imports.filter((each) => each.package === name);
    const used = uses.filter((each) => each.package === name);
    const files = [...new Set([...own, ...used].map(({ place }) => place.file))].sort(compareText);
    const members = membersOf(used);
    const shown = leaks.filter((each) => each.package === name).map(({ package: _, ...leak }) => leak);
    return {
      name,
      version: version ?? null,
      isInstalled,
      files,
      imports: own
        .map(({ place, forms }) => ({ place, forms }))
        .sort((a, b) => comparePlaces(a.place, b.place)),
      members,
      leaks: shown.sort((a, b) => comparePlaces(a.place, b.place) || compareText(a.shows, b.shows)),
      verdict: verdictOf(files.length, shown.length, members.length),
    };
  });
  return { files: fileCount, packages: surveyed.sort(byVerdict) };
}

function membersOf(uses: SurveyFacts["uses"]): readonly MemberUse[] {
  const grouped = new Map<string, SurveyFacts["uses"][number][]>();
  for (const use of uses) {
    const group = grouped.get(use.member);
    if (group) group.push(use);
    else grouped.set(use.member, [use]);
  }
  return [...grouped]
    .map(([member, group]): MemberUse => {
      const kinds: Partial<Record<UseKind, number>> = {};
      for (const { kind } of group) kinds[kind] = (kinds[kind] ?? 0) + 1;
      return {
        member,
        uses: group.length,
        kinds,
        places: group.map(({ place }) => place).sort(comparePlaces),
      };
    })
    .sort((a, b) => b.uses - a.uses || compareText(a.member, b.member));
}

function verdictOf(files: number, leaks: number, members: number): Verdict {
  const spread = files + 2 * leaks;
  const effort = Math.sqrt(Math.max(1, members));
  return { spread, effort: toHundredths(effort), score: toHundredths(spread / effort) };
}

function toHundredths(value: number): number {
  return Math.round(value * 100) / 100;
}

function byVerdict(left: PackageSurvey, right: PackageSurvey): number {
  return right.verdict.score - left.verdict.score || compareText(left.name, right.name);
}
