import type { Program } from "../../compiler/program.ts";
import { SymbolFlags } from "../../compiler/typescript.ts";

const CLASSES = SymbolFlags.Class | SymbolFlags.Interface;

/**
 * Returns the names of all members, including inherited ones, of the classes and interfaces that files export; or
 * of all types, including aliases such as `Omit<Crane, "lift">`.
 */
export function memberNamesIn(
  program: Program,
  files: readonly string[],
  of: "classes" | "all types",
): ReadonlySet<string> {
  const flags = of === "classes" ? CLASSES : CLASSES | SymbolFlags.TypeAlias;
  const names = new Set<string>();
  for (const file of files) {
    const checker = program.checkerFor(file);
    if (!checker) continue;
    for (const symbol of program.exportsOf(file).values()) {
      if ((symbol.flags & flags) === 0) continue;
      for (const member of checker.getPropertiesOfType(checker.getDeclaredTypeOfSymbol(symbol)))
        names.add(member.name);
    }
  }
  return names;
}
