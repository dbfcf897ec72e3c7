import { declaredNamesOf, wordsIn } from "../../parser/declared-names.ts";
import type { OpenProject } from "../../project/open-project.ts";
import { modulesDeclaredIn } from "../../project/packages/destinations.ts";
import { builtInOf, packageNameOf, packageNameOfPath } from "../../project/packages/packages.ts";
import { memberNamesIn } from "../../uses/members/member-names.ts";
import type { MemberFilter } from "../../uses/members/used-members.ts";

/**
 * Returns the names that values of an outside module can have as members, so that only these are resolved. They
 * are declared by the module or by packages that its declarations import.
 */
export function memberFilterOf(project: OpenProject, outside: string): MemberFilter {
  const declarations = declarationsOf(project, outside);
  const names = new Set<string>();
  for (const [path, text] of declarations)
    for (const name of /\.d\.[cm]?ts$/.test(path) ? declaredNamesOf(path, text).names : wordsIn(text))
      names.add(name);
  const exporting = [...declarations].filter(([path]) => project.packageOf(path) === outside);
  const paths = exporting.map(([path]) => path);
  for (const name of memberNamesIn(project.program, paths, "all types")) names.add(name);
  // Names made by a template are not written anywhere.
  const hasTemplates = [...declarations.values()].some((text) => /\bas\s+`|\[\w+ in `/.test(text));
  return {
    mayName: (name) => hasTemplates || names.has(name),
    mayDeclare: (path, isAnonymous) => declarations.has(path) || (isAnonymous && !project.isOwn(path)),
  };
}

/** Returns the texts of the files that declare a module, and of all packages that they import. */
function declarationsOf(project: OpenProject, outside: string): ReadonlyMap<string, string> {
  const byPackage = new Map<string, string[]>();
  for (const path of project.program.allFiles()) {
    const packageName = packageNameOfPath(path, project.root) ?? project.packageOf(path);
    for (const name of packageName === undefined ? declaredBy(project, path) : [packageName]) {
      const paths = byPackage.get(name);
      if (paths) paths.push(path);
      else byPackage.set(name, [path]);
    }
  }
  const texts = new Map<string, string>();
  const packageNames = new Set([packageOfSpecifier(outside) ?? outside, outside]);
  for (const name of packageNames) {
    for (const path of byPackage.get(name) ?? []) {
      const text = project.program.textOf(path);
      texts.set(path, text);
      for (const [, specifier = ""] of text.matchAll(MENTIONED_MODULE)) {
        const mentioned = packageOfSpecifier(specifier);
        if (mentioned !== undefined) packageNames.add(mentioned);
      }
    }
  }
  return texts;
}

/** Returns the packages that a file of the project declares or augments. */
function declaredBy(project: OpenProject, path: string): readonly string[] {
  const declared = modulesDeclaredIn(project.sourceAt(path)?.text ?? "");
  return [
    ...new Set([...declared.flatMap((name) => packageOfSpecifier(name) ?? []), ...project.describedBy(path)]),
  ];
}

/** Built-in modules are declared by the package `node`. */
function packageOfSpecifier(specifier: string): string | undefined {
  return builtInOf(specifier) === undefined ? packageNameOf(specifier) : "node";
}

const MENTIONED_MODULE =
  /(?:\bfrom\s*|\bimport\s*\(?\s*|\brequire\s*\(\s*|\breference\s+types\s*=\s*)["']([^"']+)["']/g;
