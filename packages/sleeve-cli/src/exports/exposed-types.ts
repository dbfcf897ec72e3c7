import { relative, sep } from "node:path";
import type { Program } from "../compiler/program.ts";
import { aliasTarget } from "../compiler/syntax.ts";
import { type Checker, type CompilerSymbol, SymbolFlags } from "../compiler/typescript.ts";
import type { ExposedType } from "../documents/exports-document.ts";
import { comparePlaces, compareText, Lines } from "../place.ts";
import { packageNameOfPath } from "../project/packages/packages.ts";
import { declarationFile } from "./comparison-files.ts";
import { mentionedNames } from "./mentioned-names.ts";

/**
 * Returns the types that clients see through the entry points although none of them exports them: the project's own,
 * and those of outside packages. All declarations of the project are in the folder.
 */
export function exposedTypesIn(
  program: Program,
  checker: Checker,
  folder: string,
  entries: readonly string[],
): readonly Omit<ExposedType, "isNew">[] {
  const exported = exportedSymbols(program, checker, entries);
  const exposed = new Map<string, Omit<ExposedType, "isNew">>();
  const visited = new Set(exported.keys());
  /** Symbols to visit with the nearest export that mentions each. */
  const waiting = [...exported.values()];
  for (const { name: through, symbol } of waiting) {
    for (const declaration of symbol.declarations) {
      const node = declaration.path.startsWith(`${folder}/`) ? declaration.resolve() : undefined;
      for (const name of node ? mentionedNames(node) : []) {
        const mentioned = checker.getSymbolAtLocation(name);
        const target = mentioned && aliasTarget(checker, mentioned);
        if (!target || visited.has(target.id)) continue;
        visited.add(target.id);
        const owner = ownerOf(target, folder);
        if (owner === undefined) continue;
        if (owner === null) waiting.push({ name: through, symbol: target });
        if ((target.flags & NAMED) === 0) continue;
        const source = name.getSourceFile();
        const file = declarationFile(relative(folder, source.fileName).split(sep).join("/"));
        const place = { file, ...new Lines(source.text).at(name.getStart(source)) };
        const key = `${owner ?? ""} ${target.name}`;
        if (!exposed.has(key)) exposed.set(key, { name: target.name, of: owner, through, place });
      }
    }
  }
  return [...exposed.values()].sort(
    (left, right) => compareText(left.of ?? "", right.of ?? "") || comparePlaces(left.place, right.place),
  );
}

/** Returns what files export, and what the exported namespaces do, by the symbol's identifier. */
export function exportedSymbols(
  program: Program,
  checker: Checker,
  files: readonly string[],
): ReadonlyMap<number, { readonly name: string; readonly symbol: CompilerSymbol }> {
  const exported = new Map<number, { readonly name: string; readonly symbol: CompilerSymbol }>();
  const add = (prefix: string, symbols: Iterable<CompilerSymbol>): void => {
    for (const alias of symbols) {
      const symbol = aliasTarget(checker, alias);
      const name = `${prefix}${alias.name}`;
      if (exported.has(symbol.id)) continue;
      exported.set(symbol.id, { name, symbol });
      if ((symbol.flags & SymbolFlags.Namespace) !== 0) add(`${name}.`, checker.getExportsOfModule(symbol));
    }
  };
  for (const path of files) add("", program.exportsOf(path).values());
  return exported;
}

/** Symbols that clients would import by name, and not members or parameters. */
const NAMED =
  SymbolFlags.Class | SymbolFlags.Interface | SymbolFlags.TypeAlias | SymbolFlags.Enum | SymbolFlags.Variable;

/** Returns the outside package that declares a symbol; `null` for the project; `undefined` for the language. */
function ownerOf({ declarations, flags }: CompilerSymbol, folder: string): string | null | undefined {
  const path = declarations[0]?.path;
  if (path === undefined || (flags & SymbolFlags.TypeParameter) !== 0) return undefined;
  if (path.startsWith(`${folder}/`)) return null;
  const name = packageNameOfPath(path, folder);
  return name === undefined || /^(?:@typescript\/.*|typescript|node)$/.test(name) ? undefined : name;
}
