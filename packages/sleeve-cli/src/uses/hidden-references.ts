import type { Program } from "../compiler/program.ts";
import { resolvedSymbol } from "../compiler/syntax.ts";
import { type Checker, type SourceFile, SymbolFlags } from "../compiler/typescript.ts";
import { isDecoratedType } from "./decorated-types.ts";
import type { Binding, Reference } from "./imported-names.ts";
import { jsxElementsIn } from "./jsx-elements.ts";

/** With `emitDecoratorMetadata`, the type of a decorated parameter, property or result is also a value. */
export function inMetadata(reference: Reference, bindings: readonly Binding[]): Reference {
  const { kind, symbol, node, site, local } = reference;
  if (kind !== "type" || !symbol || (symbol.flags & (SymbolFlags.Class | SymbolFlags.Variable)) === 0)
    return reference;
  const isTypeOnly = bindings.some(
    (binding) => binding.site === site && binding.local === local && binding.isTypeOnly,
  );
  return !isTypeOnly && isDecoratedType(node) ? { ...reference, kind: "metadata" } : reference;
}

/** Elements and fragments use the factories that the file imports, although no name shows it. */
export function jsxReferences(
  program: Program,
  source: SourceFile,
  bindings: readonly Binding[],
  checker: Checker,
): readonly Reference[] {
  return jsxElementsIn(program, source).flatMap(
    ({ node, path: [local = "", member] }): readonly Reference[] => {
      const binding = bindings.find((candidate) => candidate.local === local && !candidate.isTypeOnly);
      if (!binding) return [];
      const { site, export: exported, symbol } = binding;
      const start = node.getStart(source);
      const isMember = exported === "*" && member !== undefined;
      const target = isMember && symbol ? checker.getMemberInModuleExports(symbol, member) : symbol;
      return [
        {
          ...{ site, local, kind: "jsx", start, end: start, node },
          export: isMember ? member : exported,
          symbol: resolvedSymbol(checker, target),
          keepsName: false,
        },
      ];
    },
  );
}
