import type { OutsidePath } from "./outside-paths.ts";
import { isIdentifierName } from "./writing/type-text.ts";

/** An outside type that a target mentions under a name of its own. */
export interface OutsideAlias extends OutsidePath {
  readonly name: string;
  /** Whether it is the type of a value: `typeof pick`. */
  readonly isOfValue: boolean;
  /** `<T extends Load>`, for a type that is not an export of its own; otherwise empty. */
  readonly parameters: string;
  readonly parameterNames: readonly string[];
}

/**
 * Returns how the owner of a member that is aliased is referred to. The compiler names a module by its path; it is a value,
 * and is named after its export.
 */
export function ownerAlias(
  symbolName: string,
  { names }: Pick<OutsidePath, "names">,
): { readonly name: string; readonly isOfValue: boolean } {
  if (isIdentifierName(symbolName)) return { name: symbolName, isOfValue: false };
  return { name: names.at(-1) ?? "Module", isOfValue: true };
}

/** Collects the outside types that a target mentions, each under one name. */
export class OutsideAliases {
  readonly #types = new Map<string, OutsideAlias>();

  /** Returns the name of a type; the first request decides it. */
  name(type: Omit<OutsideAlias, "name">, nameIt: () => string): string {
    const key = keyOf(type);
    const alias = this.#types.get(key);
    if (alias) return alias.name;
    const name = nameIt();
    this.#types.set(key, { ...type, name });
    return name;
  }

  has(name: string): boolean {
    return [...this.#types.values()].some((type) => type.name === name);
  }

  all(): readonly OutsideAlias[] {
    return [...this.#types.values()];
  }
}

function keyOf({ specifier, names, isOfValue }: Omit<OutsideAlias, "name">): string {
  return [isOfValue, specifier, ...names].join("\0");
}
