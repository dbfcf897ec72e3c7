import type { CompilerSymbol } from "../compiler/typescript.ts";
import { Uncopiable } from "./writing/type-names.ts";
import { asTypeName, camelCase } from "./writing/type-text.ts";

/** An import that the copied types need: from one of our files, or a built-in module. */
export interface TypeImport {
  readonly name: string;
  /** Its name in the target; another module may have a type of that name. */
  readonly local: string;
  /** Path of a file, or specifier of a built-in module. */
  readonly from: { readonly path: string } | { readonly specifier: string };
}

/** Where a declaration comes from. */
export type TypeOrigin = "language" | "ours" | "outside";

/** Collects the imports that copied types need, each under a name that nothing else has. */
export class TypeImports {
  readonly #imports = new Map<string, TypeImport>();
  readonly #exportedAs: (path: string, symbol: CompilerSymbol) => string | undefined;
  readonly #isTaken: (name: string) => boolean;

  /** @param exportedAs returns the name under which one of our files exports something */
  constructor(
    exportedAs: (path: string, symbol: CompilerSymbol) => string | undefined,
    isTaken: (name: string) => boolean,
  ) {
    this.#exportedAs = exportedAs;
    this.#isTaken = isTaken;
  }

  all(): readonly TypeImport[] {
    return [...this.#imports.values()];
  }

  /** Returns the name of a type or value of the language, imported if it belongs to a module. @throws {Uncopiable} */
  globalName(symbol: CompilerSymbol): string {
    const scopes: string[] = [];
    for (let at = symbol.getParent(); at; at = at.getParent()) {
      if (/^"/.test(at.name)) {
        const specifier = at.name.slice(1, -1);
        // A type inside a namespace cannot be imported by its own name.
        if (scopes.length > 0) throw new Uncopiable(`${symbol.name} is a part of ${specifier}`);
        return this.#importFrom(`${specifier} ${symbol.name}`, symbol.name, {
          specifier: withScheme(specifier),
        });
      } else if (at.name !== "globalThis" && at.name !== "__global") scopes.unshift(at.name);
    }
    const nodeModule = scopes.length > 0 ? nodeModuleOf(symbol) : undefined;
    // What such a module exports as a whole is a namespace that is not global.
    if (nodeModule !== undefined)
      return this.#importFrom(`${nodeModule} ${symbol.name}`, symbol.name, { specifier: nodeModule });
    return [...scopes, symbol.name].join(".");
  }

  /** Imports a type, under a longer name if another module has one of that name. */
  #importFrom(key: string, name: string, from: TypeImport["from"]): string {
    const imported = this.#imports.get(key);
    if (imported) return imported.local;
    const others = new Set([...this.#imports.values()].map((item) => item.local));
    const module = "specifier" in from ? from.specifier.replace(/^node:/, "") : "";
    const longer = `${asTypeName(camelCase(module))}${name}`;
    let local = name;
    for (let count = 1; others.has(local) || this.#isTaken(local); count++)
      local = count === 1 ? longer : `${longer}${count}`;
    this.#imports.set(key, { name, local, from });
    return local;
  }

  /** Returns the name of one of our exports. @throws {Uncopiable} */
  nameOfOurs(symbol: CompilerSymbol, path: string): string {
    const name = this.#exportedAs(path, symbol);
    if (name === undefined)
      throw new Uncopiable(`${symbol.name} is not exported by the file that declares it`);
    return this.#importFrom(`${path} ${name}`, name, { path });
  }
}

/** Returns the built-in module whose value is the class or namespace that a type is in: `node:stream` for `Writable`. */
function nodeModuleOf(symbol: CompilerSymbol): string | undefined {
  const path = symbol.declarations[0]?.path ?? "";
  const [, module] = /\/@types\/node\/(.+)\.d\.ts$/.exec(path) ?? [];
  return module !== undefined && EXPORTED_WHOLE.has(module) ? `node:${module}` : undefined;
}

/** Built-in modules that export a class or namespace as a whole. */
const EXPORTED_WHOLE: ReadonlySet<string> = new Set(["stream", "events", "assert", "module"]);

function withScheme(specifier: string): string {
  return specifier.startsWith("node:") ? specifier : `node:${specifier}`;
}
