import { aliasTarget } from "../../compiler/syntax.ts";
import type { Checker, Node } from "../../compiler/typescript.ts";

/** Returns the name of a function of this library; `undefined` for any other. */
export function libraryFunctionOf(checker: Checker, callee: Node): string | undefined {
  const symbol = checker.getSymbolAtLocation(callee);
  const target = symbol && aliasTarget(checker, symbol);
  return target?.declarations.some(({ path }) => /\/sleeve\/(?:dist|src)\/wrappers\//.test(path))
    ? target.name
    : undefined;
}
