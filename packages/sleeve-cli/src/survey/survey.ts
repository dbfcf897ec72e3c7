import type { UsedSignature, UseKind } from "../compiler/uses.ts";
import type { ImportForm } from "../parser/module-record.ts";
import { comparePlaces, compareText, type Place } from "../place.ts";
import type { OutsidePackage } from "../project/outside-imports.ts";
import type { Standing } from "../project/standing.ts";

/** What was found in a project, before it is counted. */
export interface SurveyFacts {
  readonly level: Survey["level"];
  readonly fileCount: number;
  readonly unresolved: readonly Place[];
  readonly packages: readonly (Omit<OutsidePackage, "kind"> & {
    readonly kind: PackageSurvey["kind"];
    readonly standing: Standing | null;
    readonly reached: number;
  })[];
  readonly imports: readonly {
    readonly package: string;
    readonly place: Place;
    readonly forms: readonly ImportForm[];
  }[];
  readonly uses: readonly {
    readonly package: string;
    readonly member: string;
    readonly kind: MemberUseKind;
    readonly call: UsedSignature | undefined;
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
  /** How far down it goes: to the members that are used, or only to the names that are imported. */
  readonly level: "members" | "imports";
  readonly files: number;
  /** Where something is imported or required that only running it can tell. */
  readonly unresolved: readonly Place[];
  /** Those it would pay most to isolate come first. */
  readonly packages: readonly PackageSurvey[];
}

export interface PackageSurvey {
  readonly name: string;
  readonly kind: OutsidePackage["kind"] | "global";
  readonly version: string | null;
  readonly isInstalled: boolean;
  /** How it stands in the manifests and the lockfile; `null` of what is no package. */
  readonly standing: Standing | null;
  /** Those that import it, and those that use what it declares without importing it themselves. */
  readonly files: readonly string[];
  readonly imports: readonly { readonly place: Place; readonly forms: readonly ImportForm[] }[];
  readonly members: readonly MemberUse[];
  readonly leaks: readonly Leak[];
  readonly reach: Reach;
  readonly verdict: Verdict;
}

/**
 * How many files have to be checked again when the package's types change: now, those that import it, those that import
 * these, and so on; isolated, the adapter alone, as the target imports nothing of it.
 */
export interface Reach {
  readonly now: number;
  readonly isolated: number;
}

/** What is done with a member where it is used; that it is imported, where no more was asked for. */
export type MemberUseKind = UseKind | "import";

/** What is used of a package. */
export interface MemberUse {
  readonly member: string;
  readonly uses: number;
  readonly kinds: Readonly<Partial<Record<MemberUseKind, number>>>;
  /** Of its calls, where that was asked for: each distinct signature, and each distinct shape of arguments. */
  readonly signatures: readonly {
    readonly signature: string;
    readonly sends: string;
    readonly uses: number;
  }[];
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
export function surveyOf({
  level,
  fileCount,
  unresolved,
  packages,
  imports,
  uses,
  leaks,
}: SurveyFacts): Survey {
  const importsOf = grouped(imports);
  const usesOf = grouped(uses);
  const surveyed = packages.map(({ name, kind, version, isInstalled, standing, reached }): PackageSurvey => {
    const own = importsOf.get(name) ?? [];
    const used = usesOf.get(name) ?? [];
    const files = [...new Set([...own, ...used].map(({ place }) => place.file))].sort(compareText);
    const members = membersOf(used);
    const shown = leaks.filter((each) => each.package === name).map(({ package: _, ...leak }) => leak);
    return {
      name,
      kind,
      version: version ?? null,
      isInstalled,
      standing,
      files,
      imports: own
        .map(({ place, forms }) => ({ place, forms }))
        .sort((a, b) => comparePlaces(a.place, b.place)),
      members,
      leaks: shown.sort((a, b) => comparePlaces(a.place, b.place) || compareText(a.shows, b.shows)),
      reach: { now: reached, isolated: 1 },
      verdict: verdictOf(files.length, shown.length, members.length),
    };
  });
  return {
    level,
    files: fileCount,
    unresolved: [...unresolved].sort(comparePlaces),
    packages: surveyed.sort(byVerdict),
  };
}

function grouped<Fact extends { readonly package: string }>(
  facts: readonly Fact[],
): ReadonlyMap<string, readonly Fact[]> {
  const groups = new Map<string, Fact[]>();
  for (const fact of facts) {
    const group = groups.get(fact.package);
    if (group) group.push(fact);
    else groups.set(fact.package, [fact]);
  }
  return groups;
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
      const kinds: Partial<Record<MemberUseKind, number>> = {};
      for (const { kind } of group) kinds[kind] = (kinds[kind] ?? 0) + 1;
      return {
        member,
        uses: group.length,
        kinds,
        signatures: signaturesOf(group),
        places: group.map(({ place }) => place).sort(comparePlaces),
      };
    })
    .sort((a, b) => b.uses - a.uses || compareText(a.member, b.member));
}

function signaturesOf(uses: SurveyFacts["uses"]): MemberUse["signatures"] {
  const counts = new Map<string, { signature: string; sends: string; uses: number }>();
  for (const { call } of uses) {
    if (!call) continue;
    const key = `${call.signature}\0${call.sends}`;
    const known = counts.get(key);
    if (known) known.uses++;
    else counts.set(key, { ...call, uses: 1 });
  }
  return [...counts.values()].sort(
    (a, b) => b.uses - a.uses || compareText(a.signature, b.signature) || compareText(a.sends, b.sends),
  );
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
