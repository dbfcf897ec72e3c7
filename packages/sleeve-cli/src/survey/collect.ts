import { inferredLeaksIn } from "../compiler/inferred.ts";
import type { Origin } from "../compiler/origins.ts";
import type { ExportedDeclaration } from "../compiler/syntax.ts";
import { usesIn } from "../compiler/uses.ts";
import { mayInferExports } from "../parser/may-infer.ts";
import type { OpenProject, SourceText } from "../project/open-project.ts";
import { packageNameOf } from "../project/packages.ts";
import { interestOf } from "./interest.ts";
import type { Leak, SurveyFacts } from "./survey.ts";

/** Gathers the facts for a survey. `onProgress` is told how many of the files are done. */
export function collectFacts(
  project: OpenProject,
  onProgress: (done: number, all: number) => void = () => {},
): SurveyFacts {
  const interest = interestOf(project);
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
    leaks.push({ package: owner, export: name, place, shows: memberName(origin), how });
  };
  project.sources.forEach((source, index) => {
    onProgress(index, project.sources.length);
    if (!interest.mayReach(source)) return;
    const offsets = interest.mentionsIn(source);
    const query = { ownership: interest, offsets };
    for (const use of offsets.length > 0 ? usesIn(project.program, source.path, query) : []) {
      const name = packageOfOrigin(project, use);
      if (name === undefined) continue;
      uses.push({
        package: name,
        member: memberName(use),
        kind: use.kind,
        place: project.placeOf(source, use.offset),
      });
      if (use.shownBy) leak(source, use.shownBy, use, "declared");
    }
    if (!mayInferExports(source.text)) return;
    for (const { shownBy, origin } of inferredLeaksIn(project.program, source.path, interest)) {
      leak(source, shownBy, origin, "inferred");
    }
  });
  return {
    fileCount: project.sources.length,
    packages: project.packages,
    imports: project.imports.map(({ package: name, place, site }) => ({
      package: name,
      place,
      forms: site.forms,
    })),
    uses,
    leaks: distinctLeaks([...leaks, ...reExports(project)]),
  };
}

type PackageLeak = SurveyFacts["leaks"][number];

/** `export … from "package"` hands the package's own declarations on. */
function reExports(project: OpenProject): PackageLeak[] {
  return project.imports
    .filter(({ site }) => site.forms.includes("re-export"))
    .flatMap(({ package: name, site, place }) =>
      site.names.map((shows, index) => ({
        package: name,
        export: site.locals[index] ?? "*",
        place,
        shows,
        how: "re-exported" as const,
      })),
    );
}

/** One export may show one type several times: one leak. A declared type is not told again as inferred. */
function distinctLeaks(leaks: readonly PackageLeak[]): PackageLeak[] {
  const byKey = new Map<string, PackageLeak>();
  for (const each of leaks) {
    const key = [each.package, each.place.file, each.export, each.shows].join("\0");
    if (!byKey.has(key)) byKey.set(key, each);
  }
  return [...byKey.values()];
}

function packageOfOrigin(project: OpenProject, { from }: Origin): string | undefined {
  return "path" in from ? project.packageOf(from.path) : packageNameOf(from.specifier);
}

function memberName({ owner, name }: Origin): string {
  return owner === undefined ? name : `${owner}.${name}`;
}
