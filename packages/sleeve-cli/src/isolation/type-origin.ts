import type { Program } from "../compiler/program.ts";
import type { CompilerSymbol } from "../compiler/syntax.ts";
import type { OpenProject } from "../project/open-project.ts";
import { builtInOfPath } from "../project/packages/packages.ts";
import type { TypeOrigin } from "../types/type-imports.ts";
import { isIdentifierName } from "../types/writing/type-text.ts";

/** Classifies declarations that a target mentions: of the language, of our own files, or outside. */
export function originIn(project: OpenProject, outside: string): (path: string) => TypeOrigin {
  return (path) => {
    if (/(^bundled:|\/lib\.[\w.]+\.d\.ts$)/.test(path)) return "language";
    if (/\/node_modules\/@types\/node\//.test(path))
      return builtInOfPath(path) === outside ? "outside" : "language";
    return project.isOwn(path) && !project.describedBy(path).has(outside) ? "ours" : "outside";
  };
}

/** Returns the name under which a file of the project exports a declaration. */
export function exportedAsIn({
  program,
}: {
  readonly program: Program;
}): (path: string, symbol: CompilerSymbol) => string | undefined {
  return (path, symbol) => {
    for (const [name, exported] of program.exportsOf(path))
      if (exported.id === symbol.id && isIdentifierName(name)) return name;
    return undefined;
  };
}
