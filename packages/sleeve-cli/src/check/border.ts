import { exportedAliasOver } from "../compiler/syntax.ts";
import type { BorderResult, Finding } from "../documents/check-document.ts";
import { mayInferExports } from "../parser/may-infer.ts";
import type { ImportSite } from "../parser/module-record.ts";
import { exportParts } from "../place.ts";
import { filesReachedFrom, ownTargetOf } from "../project/affected-files.ts";
import type { OpenProject } from "../project/open-project.ts";
import { ownershipIn } from "../project/ownership.ts";
import { pathMatches } from "../project/path-match.ts";
import type { SourceText } from "../project/source-text.ts";
import { inferredLeaksIn } from "../uses/inferred-leaks.ts";
import type { Ownership } from "../uses/origins.ts";
import { importedIn } from "../uses/references.ts";
import type { Debt } from "./debt.ts";

/**
 * Checks that an outside package stays behind its border: only the allowed files import it, they do not
 * re-export it, no other file imports it through them, and no exported declaration beyond exposes its types.
 * Names in the config's `debt` are exempt.
 */
export function checkBorder(
  project: OpenProject,
  name: string,
  files: readonly string[],
  debt: Debt,
): BorderResult<Finding> {
  const mayImport = (file: string) => files.some((entry) => pathMatches(entry, file));
  const findings = [
    ...directImports(project, name, files, mayImport),
    ...importsThroughOwnFiles(project, name, files, mayImport, debt),
    ...aliasesOfOutsideTypes(project, name, mayImport, debt),
    ...leaksBeyond(project, name, mayImport, debt),
  ];
  return { package: name, files, holds: findings.length === 0, findings, debt: debt.found() };
}

/** Returns the imports with computed specifiers, for which no border can be checked. */
export function computedImports(
  project: OpenProject,
  files: ReadonlySet<string> | undefined,
): readonly Finding[] {
  return project.sources
    .filter(({ file }) => !files || files.has(file))
    .flatMap((source) =>
      source.unresolved.map(
        (offset): Finding => ({
          name: "computed",
          member: null,
          place: project.placeOf(source, offset),
          expected: "a specifier that is written as text",
          found: "one that is computed when the code runs",
          remedy: "Write the specifier as text, or suppress the finding with a reason.",
        }),
      ),
    );
}

type MayImport = (file: string) => boolean;

function directImports(
  project: OpenProject,
  name: string,
  files: readonly string[],
  mayImport: MayImport,
): readonly Finding[] {
  return [...project.imports, ...project.uncompiled.imports]
    .filter((site) => site.package === name && !mayImport(site.place.file))
    .map(({ place, site: { forms } }) => ({
      name: "border",
      member: null,
      place,
      expected: importedBy(name, files),
      found: `imported here (${forms.join(", ")})`,
      remedy: "Import the target instead, or add the file to the border in the config.",
    }));
}

function importedBy(name: string, files: readonly string[]): string {
  return `${name} imported by ${files.join(", ") || "no file"} only`;
}

/** Files that re-export the package, and those that import it from them. */
function importsThroughOwnFiles(
  project: OpenProject,
  name: string,
  files: readonly string[],
  mayImport: MayImport,
  debt: Debt,
): readonly Finding[] {
  const handed = reexported(project, name);
  const findings: Finding[] = [];
  for (const source of handed.size > 0 ? project.sources : []) {
    for (const site of source.sites) {
      const target = ownTargetOf(project, source, site);
      const through = target === undefined ? undefined : project.sourceAt(target);
      const names = through && handed.get(through.path);
      if (!names || mayImport(through.file) || mayImport(source.file)) continue;
      const taken = site.names.filter((name) => name === "*" || (names.has(name) && !debt.accepts(name)));
      if (taken.length === 0) continue;
      findings.push({
        name: "border",
        member: null,
        place: project.placeOf(source, site.offset),
        expected: importedBy(name, files),
        found: `imported here through ${through.file} (${taken.join(", ")})`,
        remedy: "Import the target instead.",
      });
    }
  }
  // Files inside the border may not re-export the package either.
  const gates = project.imports.filter(
    (site) => site.package === name && site.site.reexports.length > 0 && mayImport(site.place.file),
  );
  return [
    ...gates.flatMap(({ site, place }): readonly Finding[] => {
      const names = site.reexports.map(({ as }) => as).filter((as) => !debt.accepts(as));
      if (names.length === 0) return [];
      return [
        {
          name: "leak",
          member: null,
          place,
          expected: `nothing of ${name} beyond its border`,
          found: `${names.join(", ")} re-exported`,
          remedy: "Export it under a type of your own, in the target.",
        },
      ];
    }),
    ...findings,
  ];
}

/** Exported aliases of the package's types in files inside the border, which files beyond it import. */
function aliasesOfOutsideTypes(
  project: OpenProject,
  name: string,
  mayImport: MayImport,
  debt: Debt,
): readonly Finding[] {
  const gates = project.imports.filter(
    (site) => site.package === name && mayImport(site.place.file) && MAY_ALIAS.test(site.source.text),
  );
  return [...new Set(gates.map(({ source }) => source))].flatMap((source) => {
    const sites = gates.filter((gate) => gate.source === source).map(({ site }) => site);
    const { references } = importedIn(project.program, source.path, sites);
    const aliases = new Map(
      references.flatMap(({ node }) => {
        const alias = exportedAliasOver(node);
        return alias ? [[alias.text, alias] as const] : [];
      }),
    );
    const beyond = namesImportedBeyond(project, source, mayImport);
    return [...aliases.values()]
      .filter(({ text }) => (beyond.has(text) || beyond.has("*")) && !debt.accepts(text))
      .map(
        (alias): Finding => ({
          name: "leak",
          member: null,
          place: project.placeOf(source, alias.getStart()),
          expected: `nothing of ${name} beyond its border`,
          found: `${alias.text} is an alias of a type of ${name}`,
          remedy: "Declare a type of your own instead, or list it under `debt` in the config.",
        }),
      );
  });
}

/** Returns the names that files beyond the border import from one inside. */
function namesImportedBeyond(
  project: OpenProject,
  inside: SourceText,
  mayImport: MayImport,
): ReadonlySet<string> {
  return new Set(
    project.sources
      .filter(({ file }) => !mayImport(file))
      .flatMap((source) =>
        source.sites
          .filter((site) => ownTargetOf(project, source, site) === inside.path)
          .flatMap(({ names }) => names),
      ),
  );
}

const MAY_ALIAS = /\bexport\s+type\s+\w/;

/** For each of our files, the names it exports that belong to a package. */
function reexported(project: OpenProject, name: string): ReadonlyMap<string, ReadonlySet<string>> {
  const handed = new Map<string, ReadonlySet<string>>();
  const gates = project.imports.filter(
    (site) => site.package === name && MAY_REEXPORT.test(site.source.text),
  );
  // Re-exports of re-exports are followed from file to file.
  for (const path of filesReachedFrom(project, new Set(gates.map(({ source }) => source.path)))) {
    const source = project.sourceAt(path);
    if (!source || !MAY_REEXPORT.test(source.text)) continue;
    const names = [...project.program.exportsOf(path)].flatMap(([exported, symbol]) => {
      const declared = project.program.declaredIn(path, symbol);
      return declared !== undefined && project.packageOf(declared) === name ? [exported] : [];
    });
    if (names.length > 0) handed.set(path, new Set(names));
  }
  return handed;
}

const MAY_REEXPORT =
  /\bexport\s*(?:type\s*)?[*{]|\bexport\s+(?:default|import)\b|\bexport\s*=|\bmodule\.exports\b|\bexports\s*[.[]/;

/**
 * Exported declarations beyond the border whose inferred types expose the package. Annotated ones would have
 * to import it.
 */
function leaksBeyond(
  project: OpenProject,
  name: string,
  mayImport: MayImport,
  debt: Debt,
): readonly Finding[] {
  const gates = new Set(
    project.imports
      .filter((site) => site.package === name && mayImport(site.place.file))
      .map(({ source }) => source.path),
  );
  const ownership = ownershipIn(project, (owner) => owner === name);
  const reached = filesReachedFrom(project, gates);
  return project.sources
    .filter(({ path, file, text }) => reached.has(path) && !mayImport(file) && mayInferExports(text))
    .flatMap((source) => leaksIn(project, source, name, ownership, debt));
}

function leaksIn(
  project: OpenProject,
  source: SourceText,
  name: string,
  ownership: Ownership,
  debt: Debt,
): readonly Finding[] {
  const reported = new Set<string>();
  return inferredLeaksIn(project.program, source.path, ownership).flatMap(
    ({ shownBy, origin }): Finding[] => {
      const key = `${shownBy.name} ${origin.name}`;
      if (reported.has(key) || debt.accepts(origin.name)) return [];
      reported.add(key);
      return [
        {
          name: "leak",
          member: null,
          place: project.placeOf(source, shownBy.offset),
          expected: `nothing of ${name} beyond its border`,
          found: `${shownBy.name} exposes ${origin.name}, because its type is inferred`,
          remedy: "Annotate it with a type of the target.",
        },
      ];
    },
  );
}

/** Finds outside imports in the file of a target, which must be self-contained. */
export function outsideInTarget(project: OpenProject, target: string): readonly Finding[] {
  const [file] = exportParts(target);
  return project.imports
    .filter(({ place }) => place.file === file)
    .map(({ package: name, place }) => ({
      name: "import",
      member: null,
      place,
      expected: "a target that imports nothing from outside",
      found: `${name} imported here`,
      remedy: "Declare the part that the target needs as a type of your own.",
    }));
}

/** Finds subsystems of a facade that import the facade, directly or through other files. */
export function inwardImports(project: OpenProject, facade: SourceText): readonly Finding[] {
  const targets = (source: SourceText) =>
    source.sites.flatMap((site) => {
      const target = ownTargetOf(project, source, site);
      const reexportedFile = target === undefined ? undefined : project.sourceAt(target);
      return reexportedFile && reexportedFile !== source ? [{ site, source: reexportedFile }] : [];
    });
  const findings: Finding[] = [];
  const visited = new Set<SourceText>([facade]);
  const waiting = targets(facade).map(({ source }) => source);
  for (let subsystem = waiting.pop(); subsystem; subsystem = waiting.pop()) {
    if (visited.has(subsystem)) continue;
    visited.add(subsystem);
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
    expected: `subsystems that do not import ${facade.file}`,
    found: "the facade imported here",
    remedy: "Pass the subsystem what it needs as an argument, or move the shared part to a file of its own.",
  };
}
