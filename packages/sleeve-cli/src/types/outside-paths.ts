import type { Program } from "../compiler/program.ts";
import { aliasTarget, exportAssignmentOf } from "../compiler/syntax.ts";
import { type Checker, type CompilerSymbol, SymbolFlags } from "../compiler/typescript.ts";
import { isIdentifierName } from "./writing/type-text.ts";

/** How source reaches an outside declaration: a module, and the names from its export inwards. */
export interface OutsidePath {
  readonly specifier: string;
  /** `["Options"]`, `["default"]`, or `["Kit", "Options"]` in a namespace. */
  readonly names: readonly string[];
}

/** One import of a module, from which its exports can be read. */
export interface ModuleImport {
  readonly specifier: string;
  readonly path: string;
  readonly offset: number;
}

/** Maximum number of nested namespaces. */
const DEEPEST = 3;

/** Finds how the types that some modules export are reached. Modules are read when first needed. */
export class OutsidePaths {
  readonly #program: Program;
  readonly #imports: readonly ModuleImport[];
  #paths: Map<string, OutsidePath> | undefined;

  constructor(program: Program, imports: readonly ModuleImport[]) {
    this.#program = program;
    this.#imports = imports;
  }

  /** Returns the shortest path to a declaration; of equals, the first in the order of the modules. */
  to(symbol: CompilerSymbol): OutsidePath | undefined {
    this.#paths ??= this.#read();
    const key = keyOf(symbol);
    return key === undefined ? undefined : this.#paths.get(key);
  }

  #read(): Map<string, OutsidePath> {
    const paths = new Map<string, OutsidePath>();
    let level = this.#imports.flatMap(({ specifier, path, offset }) => {
      const checker = this.#program.checkerFor(path);
      // One past the opening quote, because the symbol belongs to the specifier.
      const module = checker?.getSymbolAtPosition(path, offset + 1);
      return checker && module
        ? [{ checker, symbol: module, path: { specifier, names: [] as string[] } }]
        : [];
    });
    const opened = new Set<string>();
    for (let depth = 0; depth <= DEEPEST; depth++) {
      const next: typeof level = [];
      for (const { checker, symbol, path } of level) {
        for (const { name, target } of exportsOf(checker, symbol)) {
          const key = keyOf(target);
          if (key === undefined) continue;
          const within = { specifier: path.specifier, names: [...path.names, name] };
          if (!paths.has(key)) paths.set(key, within);
          if ((target.flags & SymbolFlags.Module) === 0 || opened.has(key)) continue;
          opened.add(key);
          next.push({ checker, symbol: target, path: within });
        }
      }
      level = next;
    }
    return paths;
  }
}

function exportsOf(
  checker: Checker,
  module: CompilerSymbol,
): readonly { readonly name: string; readonly target: CompilerSymbol }[] {
  const exported = checker.getExportsOfModule(module).map((symbol) => ({
    name: symbol.name === "export=" ? "default" : symbol.name,
    target: aliasTarget(checker, symbol),
  }));
  // A module that is one value or type also exports the members of its namespace.
  const moduleExport = exportAssignmentOf(module);
  if (moduleExport && !exported.some(({ name }) => name === "default"))
    exported.push({ name: "default", target: aliasTarget(checker, moduleExport) });
  const isDefault = ({ name }: { readonly name: string }) => name === "default";
  // What is exported twice is reached by its name.
  return [...exported.filter((item) => !isDefault(item)), ...exported.filter(isDefault)].filter(
    // A module may export under any text in quotes, which is no name in source.
    ({ name, target }) =>
      !name.startsWith("__") && isIdentifierName(name) && !checker.isUnknownSymbol(target),
  );
}

function keyOf({ declarations }: CompilerSymbol): string | undefined {
  const [declaration] = declarations;
  return declaration && `${declaration.path} ${declaration.index}`;
}
