import { type Checker, SignatureKind, type Type, TypeFlags } from "../compiler/typescript.ts";

const DEEPEST = 4;

/**
 * Returns the path to the first `any` in a type, such as `.speed` or `()`, `""` for the type itself, or
 * `undefined` if there is none. Types of packages and the language count as typed, except for their type
 * arguments. An `any` where the expected type accepts everything too proves as much as is promised.
 */
export function anyWithin(
  checker: Checker,
  isOwn: (path: string) => boolean,
  type: Type,
  expected?: Type,
): string | undefined {
  if (acceptsAll(expected)) return undefined;
  if ((type.flags & TypeFlags.Any) !== 0) return "";
  return new AnySearch(checker, isOwn).within(type, expected, 0);
}

function acceptsAll(type: Type | undefined): boolean {
  return type !== undefined && (type.flags & TypeFlags.AnyOrUnknown) !== 0;
}

/** A part of a type, the same part of the expected type, and the step to it. */
type Part = readonly [Type | undefined, Type | undefined, string];

class AnySearch {
  readonly #checker: Checker;
  readonly #isOwn: (path: string) => boolean;
  readonly #seen = new Set<number>();

  constructor(checker: Checker, isOwn: (path: string) => boolean) {
    this.#checker = checker;
    this.#isOwn = isOwn;
  }

  within(type: Type, expected: Type | undefined, depth: number): string | undefined {
    if (depth > DEEPEST || this.#seen.has(type.id) || this.#seen.size > 200) return undefined;
    if (type.id === expected?.id) return undefined;
    this.#seen.add(type.id);
    if (type.isUnionType() || type.isIntersectionType())
      return this.#first(
        type.getTypes().map((part) => [part, counterpart(part, expected), ""]),
        depth,
      );
    if ((type.flags & TypeFlags.Object) === 0) return undefined;
    const symbol = type.getSymbol();
    const inArguments = this.#first(this.#typeArguments(type, expected), depth);
    const isDetailed =
      !symbol || symbol.name.startsWith("__") || symbol.declarations.some(({ path }) => this.#isOwn(path));
    if (inArguments !== undefined || !isDetailed) return inArguments;
    return this.#first(
      [
        ...this.#signatureParts(type, expected),
        ...this.#indexParts(type, expected),
        ...this.#propertyParts(type, expected),
      ],
      depth,
    );
  }

  #first(parts: readonly Part[], depth: number): string | undefined {
    for (const [part, expected, step] of parts) {
      if (!part || acceptsAll(expected)) continue;
      if ((part.flags & TypeFlags.Any) !== 0) return step;
      const untyped = this.within(part, expected, depth + 1);
      if (untyped !== undefined) return `${step}${untyped}`;
    }
    return undefined;
  }

  #typeArguments(type: Type, expected: Type | undefined): readonly Part[] {
    const argumentsOf = (of: Type | undefined) =>
      of?.isTypeReference() ? this.#checker.getTypeArguments(of) : [];
    const name = type.getSymbol()?.name;
    const typeArguments = argumentsOf(type);
    const others = expected?.getSymbol()?.name === name ? argumentsOf(expected) : [];
    // Iterators are declared with `any` besides the type they yield.
    const elementTypes = /Iter|Generator/.test(name ?? "") ? typeArguments.slice(0, 1) : typeArguments;
    return elementTypes.map((part, index) => [part, others[index], "<>"]);
  }

  #signatureParts(type: Type, expected: Type | undefined): readonly Part[] {
    const checker = this.#checker;
    const signaturesOf = (of: Type | undefined) =>
      of ? checker.getSignaturesOfType(of, SignatureKind.Call) : [];
    const others = signaturesOf(expected);
    return signaturesOf(type).flatMap((signature, at): readonly Part[] => {
      const otherSignature = others[at];
      const parameters = otherSignature?.getParameters() ?? [];
      return [
        ...signature.getParameters().map((parameter, index): Part => {
          const same = parameters[index];
          const sent = same && checker.getTypeOfSymbol(same);
          return [checker.getTypeOfSymbol(parameter), sent, `(${parameter.name})`];
        }),
        [
          checker.getReturnTypeOfSignature(signature),
          otherSignature && checker.getReturnTypeOfSignature(otherSignature),
          "()",
        ],
      ];
    });
  }

  #indexParts(type: Type, expected: Type | undefined): readonly Part[] {
    const others = expected ? this.#checker.getIndexInfosOfType(expected) : [];
    return this.#checker
      .getIndexInfosOfType(type)
      .map(({ valueType, keyType }) => [
        valueType,
        others.find((index) => index.keyType.id === keyType.id)?.valueType,
        "[…]",
      ]);
  }

  #propertyParts(type: Type, expected: Type | undefined): readonly Part[] {
    const checker = this.#checker;
    const properties = checker.getPropertiesOfType(type);
    const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
    return properties.map(({ name }, index) => {
      const expectedMember = expected && checker.getPropertyOfType(expected, name);
      return [types[index], expectedMember && checker.getTypeOfSymbol(expectedMember), `.${name}`];
    });
  }
}

/** Returns the part of an expected type that a part of a union must be: that of the same declaration. */
function counterpart(part: Type, expected: Type | undefined): Type | undefined {
  if (!expected?.isUnionType() && !expected?.isIntersectionType()) return expected;
  const symbol = part.getSymbol();
  return expected
    .getTypes()
    .find(
      (candidate) =>
        candidate.id === part.id || (symbol !== undefined && candidate.getSymbol()?.name === symbol.name),
    );
}
