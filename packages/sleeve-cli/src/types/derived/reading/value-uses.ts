import { type CompilerSymbol, type Node, SyntaxKind } from "../../../compiler/typescript.ts";
import type { CheckedFile } from "./derive-context.ts";
import { type CallSite, declarationKeyOf } from "./derive-context.ts";

/** Finds how our code uses values of named types: that it calls, constructs or iterates over them. */
export class ValueUses {
  readonly #files: () => readonly CheckedFile[];
  #byType: ReadonlyMap<string, readonly CallSite[]> | undefined;

  constructor(files: () => readonly CheckedFile[]) {
    this.#files = files;
  }

  of(symbol: CompilerSymbol, kind: ValueUse): readonly CallSite[] {
    const key = declarationKeyOf(symbol);
    this.#byType ??= usesByType(this.#files());
    return (key !== undefined && this.#byType.get(`${kind} ${key}`)) || [];
  }
}

export type ValueUse = "call" | "new" | "iterate";

/** Returns how values are called, constructed and iterated over, by the declarations of their types. */
function usesByType(files: readonly CheckedFile[]): ReadonlyMap<string, readonly CallSite[]> {
  const byType = new Map<string, CallSite[]>();
  for (const { source, checker } of files) {
    const uses: { readonly kind: ValueUse; readonly call: Node; readonly value: Node }[] = [];
    const visit = (node: Node): void => {
      const { expression } = node as Node & { expression?: Node };
      const kind = USES.get(node.kind);
      if (kind && expression) uses.push({ kind, call: node, value: expression });
      node.forEachChild(visit);
    };
    source.forEachChild(visit);
    const types = uses.length > 0 ? checker.getTypeAtLocation(uses.map(({ value }) => value)) : [];
    uses.forEach(({ kind, call }, index) => {
      const type = types[index];
      for (const symbol of [type?.getAliasSymbol(), type?.getSymbol()]) {
        const key = `${kind} ${declarationKeyOf(symbol)}`;
        const sites = byType.get(key);
        if (sites) sites.push({ call, checker });
        else byType.set(key, [{ call, checker }]);
      }
    });
  }
  return byType;
}

const USES: ReadonlyMap<SyntaxKind, ValueUse> = new Map([
  [SyntaxKind.CallExpression, "call"],
  [SyntaxKind.NewExpression, "new"],
  [SyntaxKind.ForOfStatement, "iterate"],
  [SyntaxKind.SpreadElement, "iterate"],
]);
