import { modifiersOf } from "./syntax.ts";
import { type Checker, type CompilerSymbol, ModifierFlags, type Type } from "./typescript.ts";

/** Returns a member's name as written; the compiler names the one under `Symbol.dispose` `__@dispose@22`. */
export function labelOf({ name }: CompilerSymbol): string {
  return name.replace(/^__@(\w+)@\d+$/, "[Symbol.$1]");
}

export function isPublic(symbol: CompilerSymbol): boolean {
  const node = symbol.valueDeclaration?.resolve();
  if (symbol.name.startsWith("#") || symbol.name.includes("@#")) return false;
  return !node || (modifiersOf(node) & (ModifierFlags.Private | ModifierFlags.Protected)) === 0;
}

/** Returns the names of the accessible members. */
export function publicNames(checker: Checker, type: Type): readonly string[] {
  return checker.getPropertiesOfType(type).filter(isPublic).map(labelOf);
}
