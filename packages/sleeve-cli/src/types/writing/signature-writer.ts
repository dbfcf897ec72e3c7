import { isOptionalParameter } from "../../compiler/parameters.ts";
import {
  type Checker,
  type CompilerSymbol,
  ElementFlags,
  type Node,
  type Signature,
  type Type,
  TypeFlags,
  type TypeParameter,
  TypePredicateKind,
} from "../../compiler/typescript.ts";
import { type ParameterParts, type SignatureParts, signatureText } from "./signature-parts.ts";
import { type Direction, type TypeNames, Uncopiable, type WritesTypes } from "./type-names.ts";
import { asOperand, isSame, sentParameters, tupleElementsOf } from "./type-text.ts";

/** Writes signatures as source. */
export class SignatureWriter {
  readonly #checker: Checker;
  readonly #names: TypeNames;
  readonly #types: WritesTypes;

  constructor(checker: Checker, names: TypeNames, types: WritesTypes) {
    this.#checker = checker;
    this.#names = names;
    this.#types = types;
  }

  /**
   * Writes signatures under a name, one per line: with their type parameters or, if impossible, as called.
   */
  overloads(
    symbol: CompilerSymbol,
    signatures: readonly Signature[],
    label: string,
    direction: Direction,
  ): string {
    const most = this.#names.mostArguments(symbol);
    const text = (signature: Signature) =>
      `${label}${signatureText(this.parts(signature, direction, most), ": ")}`;
    return signatures.flatMap((signature) => this.eitherWay(symbol, signature, label, text)).join(";\n");
  }

  /** Writes a signature with its type parameters, else as called, else as declared. */
  eitherWay(
    symbol: CompilerSymbol | undefined,
    signature: Signature,
    label: string,
    text: (signature: Signature) => string,
  ): readonly string[] {
    const calls = () =>
      (symbol ? this.#names.called(symbol) : []).filter(
        ({ declaration }) => declaration === undefined || isSame(declaration, signature.declaration),
      );
    const attempts = [
      () => [text(signature)],
      () => [...new Set(calls().map(text))],
      () => [`${label}${signatureText(this.#names.declared(signature), ": ")}`],
    ];
    let reason: unknown;
    for (const attempt of attempts) {
      try {
        const texts = this.#names.attempt(attempt);
        if (texts.length > 0) return texts;
      } catch (error) {
        if (!(error instanceof Uncopiable)) throw error;
        reason ??= error;
      }
    }
    throw reason;
  }

  /** Writes the parts of a signature. @throws {Uncopiable} */
  parts(signature: Signature, direction: Direction, most?: number): SignatureParts {
    return this.#types.inScope(signature.getTypeParameters(), "within", () => ({
      parameters: this.#parameters(signature, direction === "out" ? "in" : "out", most),
      result: this.#result(signature, direction),
      typeParameters: this.typeParameters(signature.getTypeParameters(), direction),
    }));
  }

  #parameters(
    signature: Signature,
    direction: Direction,
    most: number | undefined,
  ): readonly ParameterParts[] {
    const checker = this.#checker;
    const parameters = sentParameters(signature, most).flatMap((symbol, index): readonly ParameterParts[] => {
      const isRest = signature.hasRestParameter && index === signature.getParameters().length - 1;
      const type = isRest ? checker.getTypeOfSymbol(symbol) : checker.getParameterType(signature, index);
      const name = /^__\d+$/.test(symbol.name) ? `argument${index + 1}` : symbol.name;
      if (!type) throw new Uncopiable("a parameter has no type");
      if (isRest) return this.#rest(name, type, direction);
      const isOptional = isOptionalParameter(symbol);
      const text = isOptional
        ? this.#types.withoutUndefined(type, direction)
        : this.#types.write(type, direction);
      return [{ name, isRest: false, isOptional, type: text }];
    });
    const receiver = signature.getThisParameter();
    const receiverType = receiver && checker.getTypeOfSymbol(receiver);
    if (!receiverType) return parameters;
    const type = this.#types.write(receiverType, direction);
    return [{ name: "this", isRest: false, isOptional: false, type }, ...parameters];
  }

  /** Writes a rest parameter; for a tuple, one parameter per element. */
  #rest(name: string, type: Type, direction: Direction): readonly ParameterParts[] {
    const restParameter = (text: string): readonly ParameterParts[] => [
      { name, isRest: true, isOptional: false, type: text },
    ];
    if (!type.isTypeReference() || !this.#checker.isTupleType(type)) {
      // A rest parameter must be an array itself, not an interface that extends one.
      const isArray = this.#checker.isArrayType(type) || !type.isClassOrInterface();
      const element = isArray ? undefined : this.#elementOf(type);
      return restParameter(
        element
          ? `${asOperand(this.#types.write(element, direction))}[]`
          : this.#types.write(type, direction),
      );
    }
    const { types, elementFlags } = tupleElementsOf(this.#checker, type);
    if (elementFlags.some((flags) => flags !== ElementFlags.Required))
      return restParameter(this.#types.write(type, direction));
    const single = name.replace(/s$/, "");
    return types.map((element, index) => ({
      name: `${single}${types.length > 1 ? index + 1 : ""}`,
      isRest: false,
      isOptional: false,
      type: this.#types.write(element, direction),
    }));
  }

  #elementOf(type: Type): Type | undefined {
    const indexes = this.#checker.getIndexInfosOfType(type);
    return indexes.find(({ keyType }) => (keyType.flags & TypeFlags.Number) !== 0)?.valueType;
  }

  #result(signature: Signature, direction: Direction): SignatureParts["result"] {
    const predicate = this.#checker.getTypePredicateOfSignature(signature);
    if (predicate) {
      const isAssertion =
        predicate.kind === TypePredicateKind.AssertsIdentifier ||
        predicate.kind === TypePredicateKind.AssertsThis;
      const { parameterName: parameter = "this", type } = predicate as {
        parameterName?: string;
        type?: Type;
      };
      return { isAssertion, parameter, type: type && this.#types.write(type, direction) };
    }
    const type = this.#checker.getReturnTypeOfSignature(signature);
    if (!type) throw new Uncopiable("its result has no type");
    return this.#types.write(type, direction);
  }

  /** `<T extends A = B>`, or empty. */
  typeParameters(parameters: readonly TypeParameter[], direction: Direction): string {
    if (parameters.length === 0) return "";
    const texts = parameters.map((parameter) => {
      const constraint = this.#checker.getConstraintOfTypeParameter(parameter);
      if (constraint) this.#names.constrain(constraint);
      const symbol = parameter.getSymbol();
      const declaration = symbol?.declarations[0]?.resolve();
      const { defaultType, default: standard } = (declaration ?? {}) as {
        defaultType?: Node;
        default?: Node;
      };
      const node = defaultType ?? standard;
      const fallback = node && this.#checker.getTypeFromTypeNode(node as never);
      const isConst = declaration?.getText().startsWith("const ") === true;
      return [
        `${isConst ? "const " : ""}${symbol?.name ?? "T"}`,
        ...(constraint ? [`extends ${this.#types.write(constraint, direction)}`] : []),
        ...(fallback ? [`= ${this.#types.write(fallback, direction)}`] : []),
      ].join(" ");
    });
    return `<${texts.join(", ")}>`;
  }
}
