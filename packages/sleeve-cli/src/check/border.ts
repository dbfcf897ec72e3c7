import { inferredLeaksIn } from "../compiler/inferred.ts";
import type { Ownership } from "../compiler/origins.ts";
import { mayInferExports } from "../parser/may-infer.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { covers } from "../project/covers.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { SourceText } from "../project/project-sources.ts";
import { filesReachedFrom, ownTargetOf } from "../project/reach.ts";
import type { BorderResult } from "./check.ts";
import type { Finding } from "./finding.ts";

/**
 * Whether an outside package is kept behind its border: imported by none but the files that may, handed on by none of
 * these, not imported through other files of ours, and shown by no exported declaration beyond.
 */
export function checkBorder(
  project: OpenProject,
  name: string,
  files: readonly string[],
): BorderResult<Finding> {
  const mayImport = (file: string) => files.some((entry) => covers(entry, file));
  const findings = [
    ...directImports(project, name, files, mayImport),
    ...throughOurOwn(project, name, files, mayImport),
    ...leaksBeyond(project, name, mayImport),
  ];
  return { package: name, files, holds: findings.length === 0, findings };
}

type MayImport = (file: string) => boolean;

function directImports(
  project: OpenProject,
  name: string,
  files: readonly string[],
  mayImport: MayImport,
): readonly Finding[] {
  return project.imports
    .filter((each) => each.package === name && !mayImport(each.place.file))
    .map(({ place, site: { forms } }) => ({
      name: "border",
      member: null,
      place,
      expected: importedBy(name, files),
      found: `imported here (${forms.join(", ")})`,
      remedy: "Use the target in its place, or add the file to the border in the config.",
    }));
}

function importedBy(name: string, files: readonly string[]): string {
  return `${name} imported by ${files.join(", ") || "no file"} only`;
}

/** Files that hand the package on, and those that take it from these. */
function throughOurOwn(
  project: OpenProject,
  name: string,
  files: readonly string[],
  mayImport: MayImport,
): readonly Finding[] {
  const handed = handedOn(project, name);
  if (handed.size === 0) return [];
  const findings: Finding[] = [];
  for (const source of project.sources) {
    for (const site of source.sites) {
      const target = ownTargetOf(project, source, site);
      const through = target === undefined ? undefined : project.sourceAt(target);
      const names = through && handed.get(through.path);
      if (!names || mayImport(through.file) || mayImport(source.file)) continue;
      const taken = site.names.filter((each) => each === "*" || names.has(each));
      if (taken.length === 0) continue;
      findings.push({
        name: "border",
        member: null,
        place: project.placeOf(source, site.offset),
        expected: importedBy(name, files),
        found: `imported here through ${through.file} (${taken.join(", ")})`,
        remedy: "Use the target in its place.",
      });
    }
  }
  // Whoever may import a package may not give it away as it is.
  const gates = project.imports.filter(
    (each) => each.package === name && each.site.handsOn.length > 0 && mayImport(each.place.file),
  );
  return [
    ...gates.map(
      ({ site, place }): Finding => ({
        name: "leak",
        member: null,
        place,
        expected: `nothing of ${name} beyond its border`,
        found: `${site.handsOn.map(({ as }) => as).join(", ")} handed on as it is`,
        remedy: "Offer it by a type of your own, in the target.",
      }),
    ),
    ...findings,
  ];
}

/** For each file of ours that exports something of a package as it is, the names. */
function handedOn(project: OpenProject, name: string): ReadonlyMap<string, ReadonlySet<string>> {
  const handed = new Map<string, ReadonlySet<string>>();
  const gates = project.imports.filter((each) => each.package === name && MAY_HAND_ON.test(each.source.text));
  // Those that hand on what another hands on are reached from it.
  for (const path of filesReachedFrom(project, new Set(gates.map(({ source }) => source.path)))) {
    const source = project.sourceAt(path);
    if (!source || !MAY_HAND_ON.test(source.text)) continue;
    const names = [...project.program.exportsOf(path)].flatMap(([exported, symbol]) => {
      const declared = project.program.declaredIn(path, symbol);
      return declared !== undefined && project.packageOf(declared) === name ? [exported] : [];
    });
    if (names.length > 0) handed.set(path, new Set(names));
  }
  return handed;
}

const MAY_HAND_ON = /\bexport\s*(?:type\s*)?[*{]|\bexport\s+(?:default|import)\b|\bexport\s*=/;

/** Exported declarations beyond the border whose inferred types show the package. Others would have to import it. */
function leaksBeyond(project: OpenProject, name: string, mayImport: MayImport): readonly Finding[] {
  const gates = new Set(
    project.imports
      .filter((each) => each.package === name && mayImport(each.place.file))
      .map(({ source }) => source.path),
  );
  const ownership: Ownership = {
    isOfInterest: (path) => project.packageOf(path) === name,
    isOwn: (path) => project.isOwn(path),
    importedAs: () => undefined,
  };
  const reached = filesReachedFrom(project, gates);
  return project.sources
    .filter(({ path, file, text }) => reached.has(path) && !mayImport(file) && mayInferExports(text))
    .flatMap((source) => leaksIn(project, source, name, ownership));
}

function leaksIn(
  project: OpenProject,
  source: SourceText,
  name: string,
  ownership: Ownership,
): readonly Finding[] {
  const seen = new Set<string>();
  return inferredLeaksIn(project.program, source.path, ownership).flatMap(
    ({ shownBy, origin }): Finding[] => {
      const key = `${shownBy.name} ${origin.name}`;
      if (seen.has(key)) return [];
      seen.add(key);
      return [
        {
          name: "leak",
          member: null,
          place: project.placeOf(source, shownBy.offset),
          expected: `nothing of ${name} beyond its border`,
          found: `${shownBy.name} shows ${origin.name}, as its type is inferred`,
          remedy: "Declare its type, by the target.",
        },
      ];
    },
  );
}

/** What the file of a target imports from outside, where it should stand for itself. */
export function outsideInTarget(project: OpenProject, target: string): readonly Finding[] {
  const file = target.split("#")[0];
  return project.imports
    .filter(({ place }) => place.file === file)
    .map(({ package: name, place }) => ({
      name: "target",
      member: null,
      place,
      expected: "a target that imports nothing from outside",
      found: `${name} imported here`,
      remedy: "Say in types of your own what the target needs of it.",
    }));
}

/** Where a file that a facade stands before imports the facade, itself or through others. */
export function inwardImports(project: OpenProject, facade: SourceText): readonly Finding[] {
  const targets = (source: SourceText) =>
    source.sites.flatMap((site) => {
      const target = ownTargetOf(project, source, site);
      const found = target === undefined ? undefined : project.sourceAt(target);
      return found && found !== source ? [{ site, source: found }] : [];
    });
  const findings: Finding[] = [];
  const seen = new Set<SourceText>([facade]);
  const waiting = targets(facade).map(({ source }) => source);
  for (let subsystem = waiting.pop(); subsystem; subsystem = waiting.pop()) {
    if (seen.has(subsystem)) continue;
    seen.add(subsystem);
    for (const { site, source } of targets(subsystem)) {
      if (source === facade) findings.push(inwardFinding(project, subsystem, facade, site));
      else waiting.push(source);
    }
  }
  return findings.sort((a, b) => (a.place.file < b.place.file ? -1 : 1));
}

function inwardFinding(
  project: OpenProject,
  from: SourceText,
  facade: SourceText,
  site: ImportSite,
): Finding {
  return {
    name: "subsystem",
    member: null,
    place: project.placeOf(from, site.offset),
    expected: `subsystems that know nothing of ${facade.file}`,
    found: "the facade imported here",
    remedy: "Give the subsystem what it needs as an argument, or move what both need into a file of its own.",
  };
}
