import { type Checker, SignatureKind, type Type, TypeFlags } from "typescript/unstable/sync";

const DEEPEST = 4;

/**
 * The way to the first `any` in a type, as `.speed` or `()`, `""` for the type itself, and `undefined` for a type
 * without one. What packages and the language declare is taken for typed; their type arguments are looked into.
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
    return first(type.getTypes().map((each) => [each, ""]));
  if ((type.flags & TypeFlags.Object) === 0) return undefined;
  const symbol = type.getSymbol();
  const all = type.isTypeReference() ? checker.getTypeArguments(type) : [];
  // Iterators give and take `any` besides what they yield, by the language's own declarations.
  const held = /Iter|Generator/.test(symbol?.name ?? "") ? all.slice(0, 1) : all;
  const inArguments = first(held.map((each) => [each, "<>"]));
  const isDetailed =
    !symbol || symbol.name.startsWith("__") || symbol.declarations.some(({ path }) => isOwn(path));
  if (inArguments !== undefined || !isDetailed) return inArguments;
  const signatures = checker.getSignaturesOfType(type, SignatureKind.Call);
  const inSignatures = first(
    signatures.flatMap((signature) => [
      ...signature.getParameters().map((each) => [checker.getTypeOfSymbol(each), `(${each.name})`] as const),
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
