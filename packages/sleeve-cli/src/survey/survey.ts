import type { Place } from "../documents/place.ts";
import type {
  DependencyStatus,
  ImportForm,
  Leak,
  MemberUse,
  MemberUseKind,
  PackageSurvey,
  Survey,
  Verdict,
} from "../documents/survey-document.ts";

import { comparePlaces, compareText } from "../place.ts";
import type { OutsidePackage } from "../project/packages/outside-imports.ts";
import type { UsedSignature } from "../uses/uses.ts";
import { sameJobs } from "./same-job.ts";

/** What was found in a project, before counting. */
export interface SurveyFacts {
  readonly level: Survey["level"];
  readonly fileCount: number;
  readonly unresolved: readonly Place[];
  readonly packages: readonly (Omit<OutsidePackage, "kind"> & {
    readonly kind: PackageSurvey["kind"];
    readonly dependency: DependencyStatus | null;
    /** The keywords of its manifest. */
    readonly keywords: readonly string[];
    readonly affectedCount: number;
    readonly clientCount: number;
  })[];
  /** Imports in files that the compiler's config does not include. */
  readonly uncompiled?: readonly { readonly package: string; readonly place: Place }[];
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

/** Counts the facts, package by package. */
export function surveyOf({
  level,
  fileCount,
  unresolved,
  packages,
  imports,
  uses,
  leaks,
  uncompiled = [],
}: SurveyFacts): Survey {
  const importsOf = grouped(imports);
  const usesOf = grouped(uses);
  const uncompiledOf = grouped(uncompiled);
  const membersByName = new Map(packages.map(({ name }) => [name, membersOf(usesOf.get(name) ?? [])]));
  const jobs = sameJobs(
    packages.map(({ name, keywords }) => ({
      name,
      keywords,
      members: membersByName.get(name)?.map(({ member }) => member) ?? [],
    })),
  );
  const surveyed = packages.map(
    ({ name, kind, version, isInstalled, dependency, affectedCount, clientCount }): PackageSurvey => {
      const packageImports = importsOf.get(name) ?? [];
      const packageUses = usesOf.get(name) ?? [];
      const files = [...new Set([...packageImports, ...packageUses].map(({ place }) => place.file))].sort(
        compareText,
      );
      const members = membersByName.get(name) ?? [];
      const shown = leaks.filter((leak) => leak.package === name).map(({ package: _, ...leak }) => leak);
      return {
        name,
        kind,
        version: version ?? null,
        isInstalled,
        dependency,
        files,
        imports: packageImports
          .map(({ place, forms }) => ({ place, forms }))
          .sort((a, b) => comparePlaces(a.place, b.place)),
        members,
        uncompiled: (uncompiledOf.get(name) ?? []).map(({ place }) => place).sort(comparePlaces),
        leaks: shown.sort((a, b) => comparePlaces(a.place, b.place) || compareText(a.exposes, b.exposes)),
        sameJobAs: [...(jobs.get(name) ?? [])],
        affectedFiles: {
          now: affectedCount,
          clients: level === "imports" ? null : clientCount,
          whenIsolated: 1,
        },
        verdict: verdictOf(files.length, shown.length, members.length),
      };
    },
  );
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
    const counted = counts.get(key);
    if (counted) counted.uses++;
    else counts.set(key, { ...call, uses: 1 });
  }
  return [...counts.values()].sort(
    (a, b) => b.uses - a.uses || compareText(a.signature, b.signature) || compareText(a.sends, b.sends),
  );
}

function verdictOf(files: number, leaks: number, members: number): Verdict {
  const spread = files + 2 * leaks;
  const breadth = Math.sqrt(Math.max(1, members));
  return { spread, breadth: toHundredths(breadth), score: toHundredths(spread * breadth) };
}

function toHundredths(value: number): number {
  return Math.round(value * 100) / 100;
}

/** What is deprecated has to be replaced; the other packages are in the order of their scores. */
function byVerdict(left: PackageSurvey, right: PackageSurvey): number {
  const isDeprecated = ({ dependency }: PackageSurvey) => Number(dependency?.deprecated != null);
  return (
    isDeprecated(right) - isDeprecated(left) ||
    right.verdict.score - left.verdict.score ||
    compareText(left.name, right.name)
  );
}
