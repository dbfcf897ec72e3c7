import { isOptionalParameter } from "../../../compiler/parameters.ts";
import {
  type Checker,
  type CompilerSymbol,
  type Signature,
  type Type,
  type TypeParameter,
  TypePredicateKind,
} from "../../../compiler/typescript.ts";
import { usableName } from "../../writing/signature-parts.ts";
import { definedPart } from "../shapes/merge-shapes.ts";
import {
  type ParameterShape,
  type ResultShape,
  type Shape,
  type SignatureShape,
  someShape,
  type TypeParameterShape,
  valueResult,
} from "../shapes/shape.ts";
import { type DeriveContext, type ReadsTypes, Underivable } from "./derive-context.ts";

/** Reads signatures as they are declared. */
export class SignatureReader {
  readonly #checker: Checker;
  readonly #context: DeriveContext;
  readonly #types: ReadsTypes;

  constructor(checker: Checker, context: DeriveContext, types: ReadsTypes) {
    this.#checker = checker;
    this.#context = context;
    this.#types = types;
  }

  /** Whether our own code declares a signature. */
  isOurs({ declaration }: Signature): boolean {
    return declaration !== undefined && this.#context.originOf(declaration.path) === "ours";
  }

  /** Returns a signature as it is declared. */
  signature(signature: Signature, most = Number.POSITIVE_INFINITY): SignatureShape {
    const parameters = signature.getTypeParameters();
    return this.#types.within(parameters, undefined, () => ({
      typeParameters: parameters.map((parameter) => this.typeParameter(parameter)),
      parameters: this.#parameters(signature, most),
      result: this.result(signature),
    }));
  }

  typeParameter(parameter: TypeParameter): TypeParameterShape {
    const constraint = this.#checker.getConstraintOfTypeParameter(parameter);
    const name = parameter.getSymbol()?.name ?? "T";
    return { name, constraint: constraint && this.#types.asConstraint(() => this.#types.read(constraint)) };
  }

  #parameters(signature: Signature, most: number): readonly ParameterShape[] {
    const symbols = signature.getParameters();
    return symbols.flatMap((symbol, index): readonly ParameterShape[] => {
      const isRest = signature.hasRestParameter && index === symbols.length - 1;
      const isOptional = !isRest && isOptionalParameter(symbol);
      if (index >= most && (isOptional || isRest)) return [];
      const type = isRest
        ? this.#checker.getTypeOfSymbol(symbol)
        : this.#checker.getParameterType(signature, index);
      if (!type) throw new Underivable("a parameter has no type");
      const shape = this.#types.read(type);
      const name = parameterName(symbol, index);
      return [{ name, shape: isOptional ? definedPart(shape) : shape, isOptional, isRest }];
    });
  }

  /** Returns the declared result of a signature, unless it is computed or depends on parameters out of scope. */
  declaredResult(signature: Signature): ResultShape | undefined {
    const isForeign = (part: Shape) => part.kind === "parameter" && part.isForeign;
    try {
      return this.#context.attempt(() => {
        const result = this.result(signature);
        return result.shape && someShape(result.shape, isForeign) ? undefined : result;
      });
    } catch (error) {
      if (error instanceof Underivable) return undefined;
      throw error;
    }
  }

  /** Returns the result of a signature. */
  result(signature: Signature): ResultShape {
    const predicate = this.#checker.getTypePredicateOfSignature(signature);
    if (predicate) {
      const isAssertion =
        predicate.kind === TypePredicateKind.AssertsIdentifier ||
        predicate.kind === TypePredicateKind.AssertsThis;
      const { parameterName: parameter = "this", type } = predicate as {
        parameterName?: string;
        type?: Type;
      };
      return {
        kind: "predicate",
        parameter: parameter === "this" ? parameter : usableName(parameter),
        isAssertion,
        shape: type && this.#types.read(type),
      };
    }
    const type = this.#checker.getReturnTypeOfSignature(signature);
    if (!type) throw new Underivable("its result has no type");
    return valueResult(this.#types.read(type));
  }
}

export function parameterName({ name }: CompilerSymbol, index: number): string {
  return /^__\d+$/.test(name) ? `argument${index + 1}` : usableName(name);
}
