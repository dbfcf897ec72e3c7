import { readFileSync } from "node:fs";
import { inferredLeaksIn } from "../compiler/inferred.ts";
import { inheritedNamesIn } from "../compiler/inherited-names.ts";
import type { Origin } from "../compiler/origins.ts";
import { usesIn } from "../compiler/uses.ts";
import { declaredNamesOf } from "../parser/declared-names.ts";
import { mayInferExports } from "../parser/may-infer.ts";
import type { OpenProject, SourceText } from "../project/open-project.ts";
import { packageNameOf } from "../project/packages.ts";
import type { SurveyFacts } from "./survey.ts";

/**
 * Gathers the facts for a survey. `onProgress` is told how many of the files are done.
 *
 * The compiler is asked only about files that mention a name which one of the packages declares.
 */
export function collectFacts(
  project: OpenProject,
  onProgress: (done: number, all: number) => void = () => {},
): SurveyFacts {
  const names = namesOfInterest(project);
  const unusual = [...names].filter((name) => !/^[\w$]+$/.test(name));
  const isOfInterest = (path: string) => interest.has(project.packageOf(path) ?? "");
  const interest = new Set(project.packages.map(({ name }) => name));
  const ownership = { isOfInterest, isOwn: (path: string) => project.isOwn(path) };
  const uses: SurveyFacts["uses"][number][] = [];
  const leaks: SurveyFacts["leaks"][number][] = [];
  project.sources.forEach((source, index) => {
    onProgress(index, project.sources.length);
    if (mentionsAny(source, names, unusual)) {
      for (const use of usesIn(project.program, source.path, {
        ...ownership,
        mayName: (name) => names.has(name),
      })) {
        const name = packageOfOrigin(project, use);
        if (name === undefined) continue;
        const member = memberName(use);
        uses.push({ package: name, member, kind: use.kind, place: project.placeOf(source, use.offset) });
        if (use.shownBy)
          leaks.push({ package: name, ...leak(project, source, use.shownBy, member, "declared") });
      }
    }
    if (mayInferExports(source.text)) {
      for (const { shownBy, origin } of inferredLeaksIn(project.program, source.path, ownership)) {
        const name = packageOfOrigin(project, origin);
        if (name !== undefined)
          leaks.push({ package: name, ...leak(project, source, shownBy, memberName(origin), "inferred") });
      }
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

function leak(
  project: OpenProject,
  source: SourceText,
  shownBy: { readonly name: string; readonly offset: number },
  shows: string,
  how: PackageLeak["how"],
): Omit<PackageLeak, "package"> {
  return { export: shownBy.name, place: project.placeOf(source, shownBy.offset), shows, how };
}

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

/** Every name under which something of the packages can be used in the project. */
function namesOfInterest(project: OpenProject): ReadonlySet<string> {
  const wanted = new Set(project.packages.map(({ name }) => name));
  const names = new Set<string>();
  const withHeritage: string[] = [];
  for (const path of project.program.allFiles()) {
    if (!wanted.has(project.packageOf(path) ?? "")) continue;
    const declared = declaredNamesOf(path, readFileSync(path, "utf8"));
    for (const name of declared.names) names.add(name);
    if (declared.hasHeritage) withHeritage.push(path);
  }
  for (const name of inheritedNamesIn(project.program, withHeritage)) names.add(name);
  // What is imported or exported under a name of the project's own.
  for (const { site } of project.imports)
    for (const local of [...site.locals, ...site.names]) names.add(local);
  return names;
}

const WORD = /[A-Za-z_$][\w$]*/g;

/** Whether a file mentions any of the names. Those with letters beyond ASCII are looked for as they are. */
function mentionsAny({ text }: SourceText, names: ReadonlySet<string>, unusual: readonly string[]): boolean {
  WORD.lastIndex = 0;
  for (let found = WORD.exec(text); found; found = WORD.exec(text)) if (names.has(found[0])) return true;
  return unusual.some((name) => text.includes(name));
}
