import { type Checker, SignatureKind, type Type } from "../../compiler/typescript.ts";
import { localParametersOf } from "../data-types.ts";
import { LanguageBases } from "../language-bases.ts";
import { declarationKeyOf } from "./reading/derive-context.ts";
import { type Field, mapShape, type ObjectShape, type Shape } from "./shapes/shape.ts";
import { declaredOf, type TypeRegistry } from "./type-registry.ts";

/** Maximum number of classes between a type and one that it extends. */
const DEEPEST = 12;

/** Finds the types that a type of the target extends: of the language, and others of the target. */
export class ExtendedTypes {
  readonly #registry: TypeRegistry;

  constructor(registry: TypeRegistry) {
    this.#registry = registry;
  }

  /** Members of a type that the type extends are inherited. */
  withoutInherited(shape: ObjectShape, type: Type, checker: Checker): ObjectShape {
    const declared = declaredOf(checker, type);
    const bases = this.#extended(checker, declared);
    if (bases.length === 0) return shape;
    const inherited = new Set(
      bases.flatMap((base) => {
        const owner = this.#isOutside(base) ? this.#registry.ownerOf(checker, base) : undefined;
        return checker
          .getPropertiesOfType(base)
          .filter((property) => !owner || this.#registry.isUsedOn(property, owner))
          .map(({ name }) => name);
      }),
    );
    const fields = new Map<string, Field>([...shape.fields].filter(([name]) => !inherited.has(name)));
    const isCalled = bases.some((base) => checker.getSignaturesOfType(base, SignatureKind.Call).length > 0);
    return { ...shape, fields, calls: isCalled ? [] : shape.calls };
  }

  /** @param args the type arguments, if the type has none in the target */
  basesOf(checker: Checker, declared: Type, args: readonly Shape[] | undefined): readonly Shape[] {
    const { types } = this.#registry.readersOf(checker);
    const parameters = localParametersOf(declared);
    const names = parameters.flatMap((parameter) => parameter.getSymbol()?.name ?? []);
    return types.within(parameters, undefined, () =>
      this.#extended(checker, declared).map((base) => {
        const symbol = base.getSymbol();
        const key = declarationKeyOf(symbol);
        if (symbol && key !== undefined && this.#isOutside(base)) this.#registry.entry(key, symbol, checker);
        const shape: Shape =
          key !== undefined && this.#isOutside(base)
            ? {
                kind: "reference",
                key,
                args: base.isTypeReference()
                  ? checker.getTypeArguments(base).map((argument) => types.read(argument))
                  : [],
              }
            : types.read(base);
        return mapShape(shape, (part) =>
          args && part.kind === "parameter" ? args[names.indexOf(part.name)] : undefined,
        );
      }),
    );
  }

  #isOutside(type: Type): boolean {
    const path = type.getSymbol()?.declarations[0]?.path;
    return path !== undefined && this.#registry.originOf(path) === "outside";
  }

  /** Returns the types that a type extends: those of the language, and outside ones that the target has. */
  #extended(checker: Checker, declared: Type): readonly Type[] {
    if (!declared.isClassOrInterface()) return [];
    const inTarget = (type: Type, depth: number): readonly Type[] => {
      if (depth > DEEPEST || !type.isClassOrInterface()) return [];
      return checker.getBaseTypes(type).flatMap((base) => {
        const key = declarationKeyOf(base.getSymbol());
        if (key !== undefined && this.#registry.options.known.has(key) && this.#isOutside(base))
          return [base];
        // The type arguments of an inherited base are those of the declaration.
        return base.isTypeReference() && checker.getTypeArguments(base).length > 0
          ? []
          : inTarget(base, depth + 1);
      });
    };
    const outside = inTarget(declared, 0);
    if (outside.length > 0) return outside;
    return new LanguageBases(checker, this.#registry.originOf).basesOf(declared);
  }
}
