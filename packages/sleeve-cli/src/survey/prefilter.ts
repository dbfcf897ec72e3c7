import { readFileSync } from "node:fs";
import { declaredNamesOf } from "../parser/declared-names.ts";
import { filesReachedFromOutside, ownTargetOf } from "../project/affected-files.ts";
import type { OpenProject } from "../project/open-project.ts";
import { ownershipIn } from "../project/ownership.ts";
import type { SourceText } from "../project/source-text.ts";

import { memberNamesIn } from "../uses/members/member-names.ts";
import type { ImportedName, Ownership } from "../uses/origins.ts";

/**
 * Decides where a survey must look. Requests to the compiler are expensive, so only names that outside
 * packages declare are resolved, in files that they affect.
 */
export interface Prefilter extends Ownership {
  /** Whether a file may use something outside. May return `true` too often. */
  readonly mayUse: (path: string) => boolean;
  /** Returns offsets of names that something outside has, in order. May return too many. */
  readonly mentionsIn: (source: Pick<SourceText, "path" | "text">) => readonly number[];
  readonly words: PrefilterWords;
}

/** The relevant names and files, as plain data. */
export interface PrefilterWords {
  /** Every name that something outside has. */
  readonly names: readonly string[];
  /** Whether some are global, and used without an import. */
  readonly hasGlobals: boolean;
  /** Paths of files that outside packages affect, through imports. */
  readonly affected: readonly string[];
  /** By path, the local names that may be something outside under another name. */
  readonly reexported: Readonly<Record<string, readonly string[]>>;
}

export function prefilterOf(project: OpenProject): Prefilter {
  const words = wordsOf(project);
  const packages = new Set(project.packages.map(({ name }) => name));
  return {
    ...mentionsOf(words),
    words,
    ...ownershipIn(project, (name) => packages.has(name), importedNames(project)),
  };
}

function wordsOf(project: OpenProject): PrefilterWords {
  const packages = new Set(project.packages.map(({ name }) => name));
  const names = new Set<string>();
  const withHeritage: string[] = [];
  const affected = filesReachedFromOutside(project);
  let hasGlobals = project.sources.some((source) => affected.has(source.path) && isGlobal(source));
  for (const path of project.program.allFiles()) {
    if (!packages.has(project.packageOf(path) ?? "") && project.describedBy(path).size === 0) continue;
    const declared = declaredNamesOf(path, readFileSync(path, "utf8"));
    for (const name of declared.names) names.add(name);
    if (declared.hasHeritage) withHeritage.push(path);
    hasGlobals ||= declared.hasGlobals;
  }
  for (const name of memberNamesIn(project.program, withHeritage, "classes")) names.add(name);
  return {
    names: [...names],
    hasGlobals,
    affected: [...affected],
    reexported: Object.fromEntries(
      [...reexportedLocals(project)].map(([path, locals]) => [path, [...locals]]),
    ),
  };
}

/** Whether declarations of a file can be used without an import. */
export function isGlobal({ text, isModule }: Pick<SourceText, "text" | "isModule">): boolean {
  return !isModule || declaresGlobals(text);
}

/** Whether a module declares globals. */
export function declaresGlobals(text: string): boolean {
  return /\bdeclare\s+global\b/.test(text);
}

/** Returns the prefilter for these names. */
export function mentionsOf(words: PrefilterWords): Pick<Prefilter, "mayUse" | "mentionsIn"> {
  const names = new Set(words.names);
  const affected = new Set(words.affected);
  const reexported = new Map(
    Object.entries(words.reexported).map(([path, locals]) => [path, new Set(locals)]),
  );
  // An empty name, which a literal type can have, is never mentioned.
  const unusual = words.names.filter(
    (name) => name !== "" && !/^[\p{ID_Start}$_][\p{ID_Continue}$]*$/u.test(name),
  );
  return {
    // Globals are used without an import.
    mayUse: (path) => words.hasGlobals || affected.has(path),
    mentionsIn: ({ path, text }) => {
      const locals = reexported.get(path);
      return mentions(text, (name) => names.has(name) || locals?.has(name) === true, unusual);
    },
  };
}

/**
 * Returns, for each file, the local names of imports from packages, or from own files that re-export imports
 * under any name.
 */
function reexportedLocals(project: OpenProject): ReadonlyMap<string, ReadonlySet<string>> {
  const outside = new Set(project.imports.map(({ site }) => site));
  const barrels = new Set(project.sources.filter(({ text }) => mayReexport(text)).map(({ path }) => path));
  const locals = new Map<string, Set<string>>();
  for (const source of project.sources) {
    const relevant = source.sites.filter((site) => {
      if (outside.has(site)) return true;
      const target = ownTargetOf(project, source, site);
      return target !== undefined && barrels.has(target);
    });
    const names = new Set(relevant.flatMap((site) => site.locals));
    if (names.size > 0) locals.set(source.path, names);
  }
  return locals;
}

/** Whether a file may export something that another file declares. */
export function mayReexport(text: string): boolean {
  return REEXPORTS.test(text);
}

const REEXPORTS =
  /\bexport\s*(?:type\s*)?[*{=]|\bexport\s+(?:default\s+[\w$]+\s*(?:;|$)|import\b)|\bmodule\.exports\b|\bexports\./m;

/** Named imports state their origin; for default and namespace imports, the compiler resolves it. */
function importedNames({ imports }: OpenProject): Ownership["importedAs"] {
  const byPath = new Map<string, Map<string, ImportedName>>();
  for (const { package: specifier, site, source } of imports) {
    if (site.forms.includes("re-export")) continue;
    const byLocal = byPath.get(source.path) ?? new Map<string, ImportedName>();
    byPath.set(source.path, byLocal);
    site.locals.forEach((local, index) => {
      const name = site.names[index];
      if (name !== undefined && name !== "*" && name !== "default") byLocal.set(local, { specifier, name });
    });
  }
  return (path, local) => byPath.get(path)?.get(local);
}

const ASCII_WORD = /[A-Za-z_$][\w$]*/g;
const WORD = /[\p{ID_Start}$_][\p{ID_Continue}$\u200c\u200d]*/gu;
const ALL_ASCII = /^[\0-\x7f]*$/;

/**
 * Returns where a text mentions a name, including comments and strings. `unusual` names are not identifiers.
 */
function mentions(
  text: string,
  mayName: (name: string) => boolean,
  unusual: readonly string[],
): readonly number[] {
  const offsets: number[] = [];
  const pattern = ALL_ASCII.test(text) ? ASCII_WORD : WORD;
  pattern.lastIndex = 0;
  for (let match = pattern.exec(text); match; match = pattern.exec(text)) {
    if (mayName(match[0])) offsets.push(match.index);
  }
  for (const name of unusual) {
    for (let at = text.indexOf(name); at >= 0; at = text.indexOf(name, at + 1)) offsets.push(at);
  }
  return unusual.length > 0 ? offsets.sort((left, right) => left - right) : offsets;
}
