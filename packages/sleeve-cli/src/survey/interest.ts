import { readFileSync } from "node:fs";
import { inheritedNamesIn } from "../compiler/inherited-names.ts";
import type { Ownership } from "../compiler/origins.ts";
import { declaredNamesOf } from "../parser/declared-names.ts";
import type { OpenProject, SourceText } from "../project/open-project.ts";
import { filesReachedFromOutside } from "../project/reach.ts";

/**
 * What a survey looks for, and where that can be: asking the compiler costs much, so it is asked only about files
 * that outside packages reach, and only about names that one of them declares.
 */
export interface Interest extends Ownership {
  readonly mayName: (name: string) => boolean;
  /** Whether something outside can be used in a file. May say yes too often. */
  readonly mayReach: (source: SourceText) => boolean;
  /** Whether a file mentions a name that something outside has. May say yes too often. */
  readonly isMentionedIn: (source: SourceText) => boolean;
}

export function interestOf(project: OpenProject): Interest {
  const packages = new Set(project.packages.map(({ name }) => name));
  const isOfInterest = (path: string) => packages.has(project.packageOf(path) ?? "");
  const names = new Set<string>();
  const withHeritage: string[] = [];
  let hasGlobals = project.sources.some(({ text }) => /\bdeclare\s+global\b/.test(text));
  for (const path of project.program.allFiles().filter(isOfInterest)) {
    const declared = declaredNamesOf(path, readFileSync(path, "utf8"));
    for (const name of declared.names) names.add(name);
    if (declared.hasHeritage) withHeritage.push(path);
    hasGlobals ||= declared.hasGlobals;
  }
  for (const name of inheritedNamesIn(project.program, withHeritage)) names.add(name);
  // What is imported or exported under a name of the project's own.
  for (const { site } of project.imports)
    for (const local of [...site.locals, ...site.names]) names.add(local);
  const reached = filesReachedFromOutside(project);
  const unusual = [...names].filter((name) => !/^[\w$]+$/.test(name));
  return {
    isOfInterest,
    isOwn: (path) => project.isOwn(path),
    mayName: (name) => names.has(name),
    // What is global is used without an import, and so are the declarations of files that are no modules.
    mayReach: ({ path, isModule }) => hasGlobals || !isModule || reached.has(path),
    isMentionedIn: ({ text }) => mentionsAny(text, names, unusual),
  };
}

const WORD = /[A-Za-z_$][\w$]*/g;

/** Whether a text mentions any of the names. Those with letters beyond ASCII are looked for as they are. */
function mentionsAny(text: string, names: ReadonlySet<string>, unusual: readonly string[]): boolean {
  WORD.lastIndex = 0;
  for (let found = WORD.exec(text); found; found = WORD.exec(text)) if (names.has(found[0])) return true;
  return unusual.some((name) => text.includes(name));
}
