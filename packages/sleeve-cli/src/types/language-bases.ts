import type { Checker, CompilerSymbol, Type } from "../compiler/typescript.ts";
import type { TypeOrigin } from "./type-imports.ts";

/** Maximum number of classes between an outside type and one of the language. */
const DEEPEST_BASES = 10;

/** Types of the language whose values are recognised by more than the members that callers name. */
const KEPT_BASES: ReadonlySet<string> = new Set([
  "Error",
  "Array",
  "ReadonlyArray",
  "Map",
  "ReadonlyMap",
  "Set",
  "ReadonlySet",
  "Promise",
  "PromiseLike",
  "Iterable",
  "AsyncIterable",
]);

/** Finds the types of the language that outside types extend and that their reduced types keep. */
export class LanguageBases {
  readonly #checker: Checker;
  readonly #originOf: (path: string) => TypeOrigin;

  constructor(checker: Checker, originOf: (path: string) => TypeOrigin) {
    this.#checker = checker;
    this.#originOf = originOf;
  }

  basesOf(type: Type, depth = 0): readonly Type[] {
    if (!type.isClassOrInterface() || depth > DEEPEST_BASES) return [];
    const bases = this.#checker.getBaseTypes(type).flatMap((base) => {
      if (this.isKept(base.getSymbol())) return [base];
      // The type arguments of an inherited base are those of the declaration.
      const bases = this.basesOf(base, depth + 1);
      return base.isTypeReference() ? bases.filter((item) => item.getSymbol()?.name === "Error") : bases;
    });
    return bases.filter(
      (base, index) => bases.findIndex((item) => item.getSymbol()?.name === base.getSymbol()?.name) === index,
    );
  }

  /** Whether a type is one of the language that values are recognised by: awaited, thrown, iterated over. */
  isKept(symbol: CompilerSymbol | undefined): boolean {
    const path = symbol?.declarations[0]?.path;
    return (
      symbol !== undefined &&
      path !== undefined &&
      KEPT_BASES.has(symbol.name) &&
      this.#originOf(path) === "language"
    );
  }
}
