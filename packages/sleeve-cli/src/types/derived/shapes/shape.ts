/** A type that follows from use. Types with a name refer to each other by key, so that cycles cost nothing. */
export type Shape =
  /** A type of the language or of the project, or a literal, as source. */
  | { readonly kind: "text"; readonly text: string }
  | { readonly kind: "generic"; readonly name: string; readonly args: readonly Shape[] }
  | { readonly kind: "array"; readonly element: Shape; readonly isReadonly: boolean }
  | { readonly kind: "tuple"; readonly elements: readonly TupleElement[]; readonly isReadonly: boolean }
  | { readonly kind: "union"; readonly parts: readonly Shape[] }
  | ObjectShape
  | FunctionShape
  /** A named type of the target. */
  | { readonly kind: "reference"; readonly key: string; readonly args: readonly Shape[] }
  /** A type parameter; a foreign one belongs to a caller. */
  | { readonly kind: "parameter"; readonly name: string; readonly isForeign: boolean };

export interface FunctionShape {
  readonly kind: "function";
  readonly signatures: readonly SignatureShape[];
  /** Whether it is constructed. Default: `false`. */
  readonly isNew?: boolean;
  /** Whether a caller declares the types of its parameters. Default: `false`. */
  readonly isAnnotated?: boolean;
}

export interface TupleElement {
  readonly shape: Shape;
  readonly form: "required" | "optional" | "rest";
}

export interface ObjectShape {
  readonly kind: "object";
  readonly fields: ReadonlyMap<string, Field>;
  readonly index?: { readonly key: Shape; readonly value: Shape; readonly isReadonly: boolean } | undefined;
  readonly calls?: readonly SignatureShape[] | undefined;
  readonly constructs?: readonly SignatureShape[] | undefined;
  /** Name of the outside type that it is a part of. */
  readonly outsideName?: string | undefined;
}

export interface Field {
  readonly shape: Shape;
  readonly isOptional: boolean;
  readonly isReadonly: boolean;
  readonly isMethod: boolean;
  readonly doc?: string | undefined;
  /** The member of the outside type, by its declaration. */
  readonly key?: string | undefined;
  /** Whether our code reads, calls or writes it. Default: `false`. */
  readonly isNamed?: boolean;
}

export interface ParameterShape {
  readonly name: string;
  readonly shape: Shape;
  readonly isOptional: boolean;
  readonly isRest: boolean;
}

export interface TypeParameterShape {
  readonly name: string;
  readonly constraint: Shape | undefined;
}

/** What a function returns, or what a type guard says of a parameter. */
export type ResultShape =
  | { readonly kind: "value"; readonly shape: Shape }
  | {
      readonly kind: "predicate";
      readonly parameter: string;
      readonly isAssertion: boolean;
      readonly shape: Shape | undefined;
    };

export interface SignatureShape {
  readonly typeParameters: readonly TypeParameterShape[];
  readonly parameters: readonly ParameterShape[];
  readonly result: ResultShape;
}

export const UNKNOWN: Shape = { kind: "text", text: "unknown" };
export const UNDEFINED: Shape = { kind: "text", text: "undefined" };
export const VOID: Shape = { kind: "text", text: "void" };

export function text(source: string): Shape {
  return { kind: "text", text: source };
}

export function valueResult(shape: Shape): ResultShape {
  return { kind: "value", shape };
}

/** Returns a text that is equal for equal shapes. */
export function identityOf(shape: Shape): string {
  switch (shape.kind) {
    case "text":
      return shape.text;
    case "generic":
      return `${shape.name}<${shape.args.map(identityOf).join()}>`;
    case "array":
      return `${shape.isReadonly ? "readonly " : ""}[${identityOf(shape.element)}]`;
    case "tuple":
      return `(${shape.elements.map((element) => `${element.form} ${identityOf(element.shape)}`).join()})${shape.isReadonly}`;
    case "union":
      return shape.parts.map(identityOf).sort().join("|");
    case "object":
      return objectIdentity(shape);
    case "function":
      return `${shape.isNew === true ? "new " : ""}${shape.signatures.map(signatureIdentity).join("&")}`;
    case "reference":
      return `@${shape.key}<${shape.args.map(identityOf).join()}>`;
    case "parameter":
      return `${shape.isForeign ? "~" : ""}${shape.name}`;
  }
}

function objectIdentity({ fields, index, calls = [], constructs = [] }: ObjectShape): string {
  const texts = [...fields].map(
    ([name, field]) => `${field.isReadonly}${name}${field.isOptional ? "?" : ""}:${identityOf(field.shape)}`,
  );
  const indexText = index ? `[${identityOf(index.key)}]:${identityOf(index.value)}` : "";
  return `{${[...texts.sort(), indexText, ...calls.map(signatureIdentity), ...constructs.map(signatureIdentity)].join(";")}}`;
}

export function signatureIdentity({ typeParameters, parameters, result }: SignatureShape): string {
  const list = parameters.map(
    ({ shape, isOptional, isRest }) => `${isRest ? "..." : ""}${isOptional ? "?" : ""}${identityOf(shape)}`,
  );
  return `<${typeParameters.map(({ name }) => name).join()}>(${list.join()})=>${resultIdentity(result)}`;
}

export function resultIdentity(result: ResultShape): string {
  if (result.kind === "value") return identityOf(result.shape);
  return `${result.isAssertion} ${result.parameter} is ${result.shape ? identityOf(result.shape) : ""}`;
}

/** Returns a shape with some parts replaced; `replace` returns `undefined` for a part that stays. */
export function mapShape(shape: Shape, replace: (part: Shape) => Shape | undefined): Shape {
  const replacement = replace(shape);
  if (replacement) return replacement;
  const mapped = (part: Shape) => mapShape(part, replace);
  switch (shape.kind) {
    case "text":
    case "parameter":
      return shape;
    case "generic":
    case "reference":
      return { ...shape, args: shape.args.map(mapped) };
    case "array":
      return { ...shape, element: mapped(shape.element) };
    case "tuple":
      return {
        ...shape,
        elements: shape.elements.map((element) => ({ ...element, shape: mapped(element.shape) })),
      };
    case "union":
      return { ...shape, parts: shape.parts.map(mapped) };
    case "object":
      return mapObject(shape, replace);
    case "function":
      return { ...shape, signatures: shape.signatures.map((signature) => mapSignature(signature, replace)) };
  }
}

function mapObject(shape: ObjectShape, replace: (part: Shape) => Shape | undefined): ObjectShape {
  const { fields, index, calls, constructs } = shape;
  return {
    ...shape,
    fields: new Map(
      [...fields].map(([name, field]) => [name, { ...field, shape: mapShape(field.shape, replace) }]),
    ),
    index: index && { ...index, value: mapShape(index.value, replace) },
    calls: calls?.map((signature) => mapSignature(signature, replace)),
    constructs: constructs?.map((signature) => mapSignature(signature, replace)),
  };
}

export function mapSignature(
  signature: SignatureShape,
  replace: (part: Shape) => Shape | undefined,
): SignatureShape {
  const { typeParameters, parameters, result } = signature;
  return {
    typeParameters: typeParameters.map(({ name, constraint }) => ({
      name,
      constraint: constraint && mapShape(constraint, replace),
    })),
    parameters: parameters.map((parameter) => ({
      ...parameter,
      shape: mapShape(parameter.shape, replace),
    })),
    result: mapResult(result, replace),
  };
}

export function mapResult(result: ResultShape, replace: (part: Shape) => Shape | undefined): ResultShape {
  if (result.kind === "value") return valueResult(mapShape(result.shape, replace));
  return { ...result, shape: result.shape && mapShape(result.shape, replace) };
}

/** Whether some part of a shape fulfils a condition. */
export function someShape(shape: Shape, condition: (part: Shape) => boolean): boolean {
  let isFulfilled = false;
  mapShape(shape, (part) => {
    isFulfilled ||= condition(part);
    return undefined;
  });
  return isFulfilled;
}
