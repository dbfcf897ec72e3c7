import type { ImportForm } from "../parser/module-record.ts";
import { comparePlaces, compareText, type Place } from "../place.ts";
import type { DependencyStatus } from "../project/packages/dependency-status.ts";
import type { OutsidePackage } from "../project/packages/outside-imports.ts";
import type { UsedSignature, UseKind } from "../uses/uses.ts";

/** What was found in a project, before counting. */
export interface SurveyFacts {
  readonly level: Survey["level"];
  readonly fileCount: number;
  readonly unresolved: readonly Place[];
  readonly packages: readonly (Omit<OutsidePackage, "kind"> & {
    readonly kind: PackageSurvey["kind"];
    readonly standing: DependencyStatus | null;
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

/** An exported declaration that exposes an outside type. */
export interface Leak {
  readonly export: string;
  readonly place: Place;
  /** Name of the exposed type, or `*` for everything that a package exports. */
  readonly shows: string;
  readonly how: "declared" | "inferred" | "re-exported";
}

/** A survey of outside code in a project. Lists have a stable order. */
export interface Survey {
  /** Whether it covers used members, or imported names only. */
  readonly level: "members" | "imports";
  readonly files: number;
  /** Places that import a computed specifier. */
  readonly unresolved: readonly Place[];
  /** Packages, the most worthwhile to isolate first. */
  readonly packages: readonly PackageSurvey[];
}

export interface PackageSurvey {
  readonly name: string;
  readonly kind: OutsidePackage["kind"] | "global";
  readonly version: string | null;
  readonly isInstalled: boolean;
  /** Its status in the manifests and the lockfile; `null` if it is not a package. */
  readonly dependency: DependencyStatus | null;
  /** Files that import it, or use its declarations without importing it. */
  readonly files: readonly string[];
  readonly imports: readonly { readonly place: Place; readonly forms: readonly ImportForm[] }[];
  readonly members: readonly MemberUse[];
  readonly leaks: readonly Leak[];
  readonly affectedFiles: AffectedFiles;
  readonly verdict: Verdict;
}

/**
 * Number of files affected when the package's types change: now, the importers, their importers, and so on;
 * when isolated, only the adapter.
 */
export interface AffectedFiles {
  readonly now: number;
  readonly whenIsolated: number;
}

/** How a member is used; for a survey of imports, that it is imported. */
export type MemberUseKind = UseKind | "import";

/** A used member of a package. */
export interface MemberUse {
  readonly member: string;
  readonly uses: number;
  readonly kinds: Readonly<Partial<Record<MemberUseKind, number>>>;
  /** For its calls, if requested: each distinct signature, and each distinct list of argument types. */
  readonly signatures: readonly {
    readonly signature: string;
    readonly sends: string;
    readonly uses: number;
  }[];
  readonly places: readonly Place[];
}

/**
 * The benefit and cost of isolating a package.
 *
 * `spread` is the number of files that import or use the package, plus two for each leak, because every
 * caller of a leaking export depends on the package too. `effort` is the square root of the number of members
 * that an adapter needs, because members come in families. `score` is `spread` divided by `effort`.
 */
export interface Verdict {
  readonly spread: number;
  readonly effort: number;
  readonly score: number;
}

/** Counts the facts, package by package. */
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
    const shown = leaks.filter((leak) => leak.package === name).map(({ package: _, ...leak }) => leak);
    return {
      name,
      kind,
      version: version ?? null,
      isInstalled,
      dependency: standing,
      files,
      imports: own
        .map(({ place, forms }) => ({ place, forms }))
        .sort((a, b) => comparePlaces(a.place, b.place)),
      members,
      leaks: shown.sort((a, b) => comparePlaces(a.place, b.place) || compareText(a.shows, b.shows)),
      affectedFiles: { now: reached, whenIsolated: 1 },
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
