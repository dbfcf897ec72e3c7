import type { Territory } from "../compiler/own-types.ts";
import type { CompilerSymbol } from "../compiler/syntax.ts";
import type { OpenProject } from "../project/open-project.ts";
import { builtInOfPath } from "../project/packages.ts";

/** Tells what a target may name as it is from what it may not: the language, and our own files, from what is outside. */
export function territoryIn(project: OpenProject, outside: string): (path: string) => Territory {
  return (path) => {
    if (/(^bundled:|\/lib\.[\w.]+\.d\.ts$)/.test(path)) return "language";
    if (/\/node_modules\/@types\/node\//.test(path))
      return builtInOfPath(path) === outside ? "outside" : "language";
    return project.isOwn(path) ? "ours" : "outside";
  };
}

/** The name under which a file of the project exports what it declares. */
export function exportedAsIn({
  program,
}: OpenProject): (path: string, symbol: CompilerSymbol) => string | undefined {
  return (path, symbol) => {
    for (const [name, exported] of program.exportsOf(path)) if (exported.id === symbol.id) return name;
    return undefined;
  };
}
