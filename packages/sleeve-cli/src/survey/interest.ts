import { readFileSync } from "node:fs";
import { inheritedNamesIn } from "../compiler/inherited-names.ts";
import type { ImportedName, Ownership } from "../compiler/origins.ts";
import { declaredNamesOf } from "../parser/declared-names.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { SourceText } from "../project/project-sources.ts";
import { filesReachedFromOutside, ownTargetOf } from "../project/reach.ts";

/**
 * What a survey looks for, and where that can be: asking the compiler costs much, so it is asked only about files
 * that outside packages reach, and only about names that one of them declares.
 */
export interface Interest extends Ownership {
  /** Whether something outside can be used in a file. May say yes too often. */
  readonly mayReach: (path: string) => boolean;
  /** Where a file mentions a name that something outside has, in order. May be too many. */
  readonly mentionsIn: (source: Pick<SourceText, "path" | "text">) => readonly number[];
  readonly words: InterestWords;
}

/** What names and files are of interest, as plain data. */
export interface InterestWords {
  /** Every name that something outside has. */
  readonly names: readonly string[];
  /** Whether some of it is global, and used without an import. */
  readonly hasGlobals: boolean;
  /** The paths of files that outside packages reach, by imports. */
  readonly reached: readonly string[];
  /** By their paths, the local names of what files import that may be something outside under another name. */
  readonly handedOn: Readonly<Record<string, readonly string[]>>;
}

export function interestOf(project: OpenProject): Interest {
  const words = wordsOf(project);
  const packages = new Set(project.packages.map(({ name }) => name));
  return {
    ...mentionsOf(words),
    words,
    isOfInterest: (path) => packages.has(project.packageOf(path) ?? ""),
    isOwn: (path) => project.isOwn(path),
    importedAs: importedNames(project),
  };
}

function wordsOf(project: OpenProject): InterestWords {
  const packages = new Set(project.packages.map(({ name }) => name));
  const names = new Set<string>();
  const withHeritage: string[] = [];
  const reached = filesReachedFromOutside(project);
  let hasGlobals = project.sources.some((each) => reached.has(each.path) && isGlobal(each));
  for (const path of project.program.allFiles()) {
    if (!packages.has(project.packageOf(path) ?? "")) continue;
    const declared = declaredNamesOf(path, readFileSync(path, "utf8"));
    for (const name of declared.names) names.add(name);
    if (declared.hasHeritage) withHeritage.push(path);
    hasGlobals ||= declared.hasGlobals;
  }
  for (const name of inheritedNamesIn(project.program, withHeritage)) names.add(name);
  return {
    names: [...names],
    hasGlobals,
    reached: [...reached],
    handedOn: Object.fromEntries([...localsHandedOn(project)].map(([path, own]) => [path, [...own]])),
  };
}

/** Whether other files need not import what a file declares. */
export function isGlobal({ text, isModule }: Pick<SourceText, "text" | "isModule">): boolean {
  return !isModule || declaresGlobals(text);
}

/** Whether a module declares something that is global. */
export function declaresGlobals(text: string): boolean {
  return /\bdeclare\s+global\b/.test(text);
}

/** Where something of interest can be used, which the words tell by themselves. */
export function mentionsOf(words: InterestWords): Pick<Interest, "mayReach" | "mentionsIn"> {
  const names = new Set(words.names);
  const reached = new Set(words.reached);
  const handedOn = new Map(Object.entries(words.handedOn).map(([path, own]) => [path, new Set(own)]));
  // An empty name, which a literal type can be, is mentioned nowhere.
  const unusual = words.names.filter(
    (name) => name !== "" && !/^[\p{ID_Start}$_][\p{ID_Continue}$]*$/u.test(name),
  );
  return {
    // What is global is used without an import.
    mayReach: (path) => words.hasGlobals || reached.has(path),
    mentionsIn: ({ path, text }) => {
      const locals = handedOn.get(path);
      return mentions(text, (name) => names.has(name) || locals?.has(name) === true, unusual);
    },
  };
}

/**
 * For each file, the local names of what it imports from packages, or from files of the project's own that hand on
 * what they import themselves, under whatever name.
 */
function localsHandedOn(project: OpenProject): ReadonlyMap<string, ReadonlySet<string>> {
  const outside = new Set(project.imports.map(({ site }) => site));
  const barrels = new Set(project.sources.filter(({ text }) => mayHandOn(text)).map(({ path }) => path));
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

/** Whether a file may export something that is declared elsewhere. */
export function mayHandOn(text: string): boolean {
  return HANDS_ON.test(text);
}

const HANDS_ON =
  /\bexport\s*(?:type\s*)?[*{=]|\bexport\s+(?:default\s+[\w$]+\s*(?:;|$)|import\b)|\bmodule\.exports\b|\bexports\./m;

/** Named imports say where they come from; what a default or a namespace stands for, the compiler has to tell. */
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

/** Where a text mentions a name, comments and strings included. `unusual` are names that are no words. */
function mentions(
  text: string,
  mayName: (name: string) => boolean,
  unusual: readonly string[],
): readonly number[] {
  const offsets: number[] = [];
  const pattern = ALL_ASCII.test(text) ? ASCII_WORD : WORD;
  pattern.lastIndex = 0;
  for (let found = pattern.exec(text); found; found = pattern.exec(text)) {
    if (mayName(found[0])) offsets.push(found.index);
  }
  for (const name of unusual) {
    for (let at = text.indexOf(name); at >= 0; at = text.indexOf(name, at + 1)) offsets.push(at);
  }
  return unusual.length > 0 ? offsets.sort((left, right) => left - right) : offsets;
}
