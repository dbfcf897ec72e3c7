import { type Checker, SignatureKind, type Type, TypeFlags } from "../compiler/typescript.ts";
import { isInternal, type Origin, Origins, type Ownership } from "./origins.ts";

/** Maximum depth of the search for leaks, through promises, collections and callbacks. */
const DEEPEST = 4;

/** Finds types of the packages of interest inside types. */
export class OriginsInTypes {
  readonly #checker: Checker;
  readonly #origins: Origins;
  readonly #found = new Map<number, readonly Origin[]>();

  constructor(checker: Checker, ownership: Ownership) {
    this.#checker = checker;
    this.#origins = Origins.for(checker, ownership);
  }

  in(type: Type, depth = 0): readonly Origin[] {
    if (depth > DEEPEST || (type.flags & (TypeFlags.Object | TypeFlags.UnionOrIntersection)) === 0) return [];
    const cached = this.#found.get(type.id);
    if (cached) return cached;
    // A recursive type adds nothing the second time.
    this.#found.set(type.id, []);
    const origins = distinctOrigins([
      ...this.#own(type),
      ...this.#parts(type).flatMap((part) => this.in(part, depth + 1)),
    ]);
    this.#found.set(type.id, origins);
    return origins;
  }

  #own(type: Type): readonly Origin[] {
    return [type.getAliasSymbol(), type.getSymbol()].flatMap((symbol) =>
      symbol && !isInternal(symbol) ? (this.#origins.of(symbol) ?? []) : [],
    );
  }

  #parts(type: Type): readonly Type[] {
    if (type.isUnionType() || type.isIntersectionType()) return type.getTypes();
    if (type.isTypeReference()) return this.#checker.getTypeArguments(type);
    if (type.isClassOrInterface()) return [];
    return [SignatureKind.Call, SignatureKind.Construct]
      .flatMap((kind) =>
        this.#checker.getSignaturesOfType(type, kind).flatMap((signature) => {
          const parameters = signature.getParameters();
          const types = parameters.length > 0 ? this.#checker.getTypeOfSymbol(parameters) : [];
          return [...types, this.#checker.getReturnTypeOfSignature(signature)].flatMap((item) => item ?? []);
        }),
      )
      .concat(this.#propertyTypes(type));
  }

  #propertyTypes(type: Type): readonly Type[] {
    const properties = this.#checker.getPropertiesOfType(type);
    return properties.length > 0
      ? this.#checker.getTypeOfSymbol(properties).flatMap((item) => item ?? [])
      : [];
  }
}

function distinctOrigins(origins: readonly Origin[]): readonly Origin[] {
  const byKey = new Map(
    origins.map((origin) => [`${JSON.stringify(origin.from)} ${origin.owner} ${origin.name}`, origin]),
  );
  return [...byKey.values()];
}
