import {
  type Checker,
  type CompilerSymbol,
  type Node,
  type Signature,
  SyntaxKind,
  type Type,
} from "./typescript.ts";

/** One parameter of a signature. */
export interface Parameter {
  readonly name: string;
  readonly type: Type;
}

/** Returns the parameters of a signature; a rest parameter provides any number of them. */
export interface Parameters {
  readonly length: number;
  readonly hasRest: boolean;
  at(index: number): Parameter | undefined;
  entries(): Iterable<readonly [number, Parameter]>;
}

export function parametersOf(checker: Checker, signature: Signature, leading = 0): Parameters {
  const symbols = signature.getParameters();
  const { hasRestParameter: hasRest } = signature;
  const length = symbols.length - leading;
  const at = (index: number): Parameter | undefined => {
    if (index >= length && !hasRest) return undefined;
    const type = checker.getParameterType(signature, index + leading);
    const { name } = symbols[Math.min(index + leading, symbols.length - 1)] ?? { name: "" };
    return type && { name, type };
  };
  return {
    length,
    hasRest,
    at,
    *entries() {
      for (let index = 0; index < length; index++) {
        const parameter = at(index);
        if (parameter) yield [index, parameter];
      }
    },
  };
}

export function isOptionalParameter(parameter: CompilerSymbol): boolean {
  const declaration = parameter.valueDeclaration?.resolve() as
    | (Node & { questionToken?: Node; initializer?: Node })
    | undefined;
  return declaration?.questionToken !== undefined || declaration?.initializer !== undefined;
}

/** Whether a declaration uses the type `this`, which the compiler has resolved to the target. */
export function declaresThis(declaration: Node | undefined): boolean {
  const { type } = (declaration ?? {}) as { type?: Node };
  return type?.kind === SyntaxKind.ThisType;
}
