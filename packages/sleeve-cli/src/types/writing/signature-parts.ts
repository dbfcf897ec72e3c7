/** A parameter of a signature, as source. */
export interface ParameterParts {
  /** Its name: `this` for the type of the receiver. */
  readonly name: string;
  readonly isRest: boolean;
  readonly isOptional: boolean;
  readonly type: string;
}

/** What a signature says of a parameter or of `this` if a call returns `true`, or if it returns at all. */
export interface PredicateParts {
  readonly isAssertion: boolean;
  readonly parameter: string;
  /** The type, if one is claimed. */
  readonly type: string | undefined;
}

/** A signature as source, by its parts. */
export interface SignatureParts {
  /** `<Key extends string>`, or empty. */
  readonly typeParameters: string;
  readonly parameters: readonly ParameterParts[];
  /** The type of the result, or what the signature says of a parameter. */
  readonly result: string | PredicateParts;
}

/** Returns `<T>(left: T, right?: T): T`, or with `=>` before the result. */
export function signatureText(parts: SignatureParts, arrow: " => " | ": "): string {
  const parameters = parts.parameters.map(parameterText);
  return `${parts.typeParameters}(${parameters.join(", ")})${arrow}${resultText(parts.result)}`;
}

function parameterText({ name, isRest, isOptional, type }: ParameterParts): string {
  return `${isRest ? "..." : ""}${name}${isOptional ? "?" : ""}: ${type}`;
}

export function resultText(result: SignatureParts["result"]): string {
  if (typeof result === "string") return result;
  const { isAssertion, parameter, type } = result;
  return `${isAssertion ? "asserts " : ""}${parameter}${type === undefined ? "" : ` is ${type}`}`;
}

/** Words that declarations allow as names of parameters, and that the code of a class does not. */
const NOT_IN_CLASSES: ReadonlySet<string> = new Set(
  "arguments await eval implements interface let package private protected public static yield break case catch class const continue debugger default delete do else enum export extends false finally for function if import in instanceof new null return super switch throw true try typeof var void while with".split(
    " ",
  ),
);

/** Returns the name of a parameter as the code of a class or module accepts it. */
export function usableName(name: string): string {
  return NOT_IN_CLASSES.has(name) ? `${name}_` : name;
}

/** Returns a signature whose parameters have names that the code of a class accepts. */
export function withUsableNames(parts: SignatureParts): SignatureParts {
  const nameOf = usableName;
  const { parameters, result } = parts;
  return {
    ...parts,
    parameters: parameters.map((parameter) => ({ ...parameter, name: nameOf(parameter.name) })),
    result: typeof result === "string" ? result : { ...result, parameter: nameOf(result.parameter) },
  };
}
