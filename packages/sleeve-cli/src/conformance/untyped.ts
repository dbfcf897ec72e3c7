import { type Checker, SignatureKind, type Type, TypeFlags } from "../compiler/typescript.ts";

const DEEPEST = 4;

/**
 * Returns the path to the first `any` in a type, such as `.speed` or `()`, `""` for the type itself, or
 * `undefined` if there is none. Types of packages and the language count as typed, except for their type
 * arguments.
 */
export function anyWithin(
  checker: Checker,
  isOwn: (path: string) => boolean,
  type: Type,
  seen = new Set<number>(),
): string | undefined {
  if ((type.flags & TypeFlags.Any) !== 0) return "";
  if (seen.has(type.id) || seen.size > 200) return undefined;
  seen.add(type.id);
  return walk(checker, isOwn, type, seen, 0);
}

function walk(
  checker: Checker,
  isOwn: (path: string) => boolean,
  type: Type,
  seen: Set<number>,
  depth: number,
): string | undefined {
  if (depth > DEEPEST) return undefined;
  const into = (part: Type | undefined, step: string): string | undefined => {
    if (!part) return undefined;
    if ((part.flags & TypeFlags.Any) !== 0) return step;
    if (seen.has(part.id)) return undefined;
    seen.add(part.id);
    const found = walk(checker, isOwn, part, seen, depth + 1);
    return found === undefined ? undefined : `${step}${found}`;
  };
  const first = (parts: readonly (readonly [Type | undefined, string])[]): string | undefined => {
    for (const [part, step] of parts) {
      const found = into(part, step);
      if (found !== undefined) return found;
    }
    return undefined;
  };
  if (type.isUnionType() || type.isIntersectionType())
    return first(type.getTypes().map((type) => [type, ""]));
  if ((type.flags & TypeFlags.Object) === 0) return undefined;
  const symbol = type.getSymbol();
  const all = type.isTypeReference() ? checker.getTypeArguments(type) : [];
  // Iterators are declared with `any` besides the type they yield.
  const held = /Iter|Generator/.test(symbol?.name ?? "") ? all.slice(0, 1) : all;
  const inArguments = first(held.map((type) => [type, "<>"]));
  const isDetailed =
    !symbol || symbol.name.startsWith("__") || symbol.declarations.some(({ path }) => isOwn(path));
  if (inArguments !== undefined || !isDetailed) return inArguments;
  const signatures = checker.getSignaturesOfType(type, SignatureKind.Call);
  const inSignatures = first(
    signatures.flatMap((signature) => [
      ...signature
        .getParameters()
        .map((parameter) => [checker.getTypeOfSymbol(parameter), `(${parameter.name})`] as const),
      [checker.getReturnTypeOfSignature(signature), "()"] as const,
    ]),
  );
  if (inSignatures !== undefined) return inSignatures;
  const inIndexes = first(checker.getIndexInfosOfType(type).map(({ valueType }) => [valueType, "[…]"]));
  if (inIndexes !== undefined) return inIndexes;
  const properties = checker.getPropertiesOfType(type);
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  return first(properties.map(({ name }, index) => [types[index], `.${name}`]));
}
