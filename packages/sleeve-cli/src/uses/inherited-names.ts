import type { Program } from "../compiler/program.ts";
import { SymbolFlags } from "../compiler/typescript.ts";

/**
 * Returns the names of all members, including inherited ones, of the classes and interfaces that files
 * export.
 */
export function inheritedNamesIn(program: Program, files: readonly string[]): ReadonlySet<string> {
  const names = new Set<string>();
  for (const file of files) {
    const checker = program.checkerFor(file);
    if (!checker) continue;
    for (const symbol of program.exportsOf(file).values()) {
      if ((symbol.flags & (SymbolFlags.Class | SymbolFlags.Interface)) === 0) continue;
      for (const member of checker.getPropertiesOfType(checker.getDeclaredTypeOfSymbol(symbol)))
        names.add(member.name);
    }
  }
  return names;
}
