import type { ExportedDeclaration } from "../compiler/syntax.ts";
import type { Leak } from "../documents/survey-document.ts";
import { mayInferExports } from "../parser/may-infer.ts";
import type { OpenProject } from "../project/open-project.ts";
import { packageNameOf } from "../project/packages/packages.ts";
import type { SourceText } from "../project/source-text.ts";

import { type GlobalGroup, globalUsesIn, mayUseGlobals } from "../uses/global-uses.ts";
import { inferredLeaksIn } from "../uses/inferred-leaks.ts";
import { isInternal, type Origin } from "../uses/origins.ts";
import { usesIn } from "../uses/uses.ts";
import { type Prefilter, prefilterOf } from "./prefilter.ts";
import { projectFacts } from "./project-facts.ts";
import type { SurveyFacts } from "./survey.ts";

export interface CollectOptions {
  /** Receives the number of processed files. */
  readonly onProgress?: ((done: number, all: number) => void) | undefined;
  /** Whether to look for runtime globals: clocks, storage, the network. */
  readonly globals?: boolean | undefined;
  /** Whether to resolve the signature of each call. */
  readonly signatures?: boolean | undefined;
  /** Paths of the files to process. Default: all. */
  readonly only?: ReadonlySet<string> | undefined;
  readonly prefilter?: Prefilter | undefined;
}

/** Collects the facts for a survey. */
export function collectFacts(project: OpenProject, options: CollectOptions = {}): SurveyFacts {
  const { onProgress = () => {}, globals = false, signatures = false, only } = options;
  const { prefilter = prefilterOf(project) } = options;
  const uses: SurveyFacts["uses"][number][] = [];
  const leaks: PackageLeak[] = [];
  const leak = (
    source: SourceText,
    { name, offset }: ExportedDeclaration,
    origin: Origin,
    how: Leak["how"],
  ) => {
    const owner = packageOfOrigin(project, origin);
    if (owner === undefined) return;
    const place = project.placeOf(source, offset);
    leaks.push({ package: owner, export: name, place, exposes: memberName(origin), how });
  };
  project.sources.forEach((source, index) => {
    onProgress(index, project.sources.length);
    if (only?.has(source.path) === false) return;
    if (globals && mayUseGlobals(source.text)) uses.push(...globalUses(project, source));
    if (!prefilter.mayUse(source.path)) return;
    const offsets = prefilter.mentionsIn(source);
    const query = { ownership: prefilter, offsets, withSignatures: signatures };
    for (const use of offsets.length > 0 ? usesIn(project.program, source.path, query) : []) {
      const name = packageOfOrigin(project, use);
      if (name === undefined || project.describedBy(source.path).has(name)) continue;
      uses.push({
        package: name,
        member: memberName(use),
        kind: use.kind,
        call: use.call,
        place: project.placeOf(source, use.offset),
      });
      if (use.shownBy) leak(source, use.shownBy, use, "declared");
    }
    uses.push(...callsAtOnce(project, source));
    if (!mayInferExports(source.text)) return;
    for (const { shownBy, origin } of inferredLeaksIn(project.program, source.path, prefilter)) {
      leak(source, shownBy, origin, "inferred");
    }
  });
  const usedPackages = new Set(uses.map((use) => use.package));
  const facts = projectFacts(project, leaks);
  return {
    level: "members",
    ...facts,
    packages: [
      ...facts.packages,
      ...GLOBAL_GROUPS.map(globalName)
        .filter((name) => usedPackages.has(name))
        .map((name) => ({
          name,
          kind: "global" as const,
          version: undefined,
          isInstalled: true,
          dependency: null,
          keywords: [],
          affectedCount: new Set(uses.filter((use) => use.package === name).map(({ place }) => place.file))
            .size,
          clientCount: 0,
        })),
    ],
    uses,
    leaks: distinctLeaks(facts.leaks),
  };
}

/** Modules that are functions, called at their `require`: there is no name for the compiler to resolve. */
function callsAtOnce(project: OpenProject, source: SourceText): readonly SurveyFacts["uses"][number][] {
  if (!source.sites.some(({ isCalled }) => isCalled)) return [];
  return project.imports
    .filter((site) => site.site.isCalled && site.source === source)
    .map(({ package: name, place, site }) => {
      const moduleExport = project.program.exportOfModule(source.path, site.offset, "export=");
      const member =
        moduleExport && !isInternal(moduleExport) ? moduleExport.name : site.specifier.split("/").at(-1);
      return { package: name, member: member ?? name, kind: "call", call: undefined, place };
    });
}

const GLOBAL_GROUPS: readonly GlobalGroup[] = ["network", "storage", "clock", "randomness", "environment"];

/** The name of a group of globals among packages. */
function globalName(group: GlobalGroup): string {
  return `global ${group}`;
}

function globalUses(project: OpenProject, source: SourceText): SurveyFacts["uses"] {
  const globalUses = globalUsesIn(project.program, source.path, (path) => project.isOwn(path));
  return globalUses.map(({ member, group, kind, offset }) => ({
    package: globalName(group),
    member,
    kind,
    call: undefined,
    place: project.placeOf(source, offset),
  }));
}

type PackageLeak = SurveyFacts["leaks"][number];

/**
 * An export that exposes one type several times is one leak. An annotated type is not reported again as
 * inferred.
 */
function distinctLeaks(leaks: readonly PackageLeak[]): PackageLeak[] {
  const byKey = new Map<string, PackageLeak>();
  for (const leak of leaks) {
    const key = [leak.package, leak.place.file, leak.export, leak.exposes].join("\0");
    if (!byKey.has(key)) byKey.set(key, leak);
  }
  return [...byKey.values()];
}

function packageOfOrigin(project: OpenProject, { from }: Origin): string | undefined {
  if ("path" in from) return project.packageOf(from.path);
  const isOutside = project.packages.some(({ name }) => name === from.specifier);
  return isOutside ? from.specifier : packageNameOf(from.specifier);
}

function memberName({ owner, name }: Origin): string {
  return owner === undefined ? name : `${owner}.${name}`;
}
