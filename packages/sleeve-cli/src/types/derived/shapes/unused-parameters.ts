import { referencesIn } from "../../../parser/references.ts";

/**
 * Returns type parameters under the names that a declaration gives them. Settings may forbid unused ones, which callers
 * write, unless their names begin with an underscore.
 *
 * @param types the types that the declaration mentions, as source
 */
export function declaredParameterNames(
  parameterNames: readonly string[],
  types: readonly string[],
): readonly string[] {
  if (parameterNames.length === 0) return parameterNames;
  const mentioned = new Set(types.flatMap((type) => [...referencesIn(`type _ = ${type}`).keys()]));
  return parameterNames.map((name) => (mentioned.has(name) ? name : `_${name}`));
}
