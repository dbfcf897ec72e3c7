import { asOperand, propertyKey } from "../../writing/type-text.ts";
import { isUnknown } from "./merge-shapes.ts";
import type { Field, ObjectShape, ParameterShape, ResultShape, Shape, SignatureShape } from "./shape.ts";

/** Names of the types that shapes refer to. */
export interface ShapeNames {
  /** Returns the name of a named type. */
  readonly nameOf: (key: string) => string;
  /** Returns the positions of the type parameters that the named type declares. */
  readonly parametersOf: (key: string) => readonly number[];
  /** Whether it is an alias of the outside type. */
  readonly isAlias: (key: string) => boolean;
}

/** Returns the source of a type. */
export function shapeText(shape: Shape, names: ShapeNames): string {
  const print = (part: Shape) => shapeText(part, names);
  switch (shape.kind) {
    case "text":
      return shape.text;
    case "parameter":
      return shape.name;
    case "generic":
      return `${shape.name}${argumentsText(shape.args, names)}`;
    case "reference": {
      const kept = names.parametersOf(shape.key).flatMap((position) => shape.args[position] ?? []);
      // The outside type has defaults of its own.
      if (names.isAlias(shape.key) && kept.every(isUnknown)) return names.nameOf(shape.key);
      return `${names.nameOf(shape.key)}${argumentsText(kept, names)}`;
    }
    case "array":
      return `${shape.isReadonly ? "readonly " : ""}${asOperand(print(shape.element))}[]`;
    case "tuple":
      return `${shape.isReadonly ? "readonly " : ""}[${shape.elements
        .map(({ shape: element, form }) => {
          const elementText = asOperand(print(element));
          if (form === "rest") return `...${elementText}[]`;
          return form === "optional" ? `${elementText}?` : print(element);
        })
        .join(", ")}]`;
    case "union":
      return [...new Set(shape.parts.map((part) => asOperand(print(part))))].join(" | ");
    case "object":
      return objectText(shape, names);
    case "function":
      return functionText(shape.signatures, shape.isNew === true, names);
  }
}

function argumentsText(args: readonly Shape[], names: ShapeNames): string {
  return args.length === 0 ? "" : `<${args.map((argument) => shapeText(argument, names)).join(", ")}>`;
}

function functionText(signatures: readonly SignatureShape[], isNew: boolean, names: ShapeNames): string {
  const prefix = isNew ? "new " : "";
  const [onlySignature] = signatures;
  if (signatures.length === 1 && onlySignature)
    return `${prefix}${signatureText(onlySignature, " => ", names)}`;
  return `{ ${signatures.map((signature) => `${prefix}${signatureText(signature, ": ", names)}`).join("; ")} }`;
}

function objectText(shape: ObjectShape, names: ShapeNames): string {
  const members = memberTexts(shape, names).flatMap(({ text }) => text);
  return members.length === 0 ? "object" : `{ ${members.join("; ")} }`;
}

/** Returns the members of an object: calls, an index signature, and fields. A method has a line for each overload. */
export function memberTexts(
  { fields, index, calls = [], constructs = [] }: ObjectShape,
  names: ShapeNames,
): readonly { readonly name: string; readonly field: Field | undefined; readonly text: string }[] {
  return [
    ...calls.map((call) => ({ name: "()", field: undefined, text: signatureText(call, ": ", names) })),
    ...constructs.map((signature) => ({
      name: "new ()",
      field: undefined,
      text: `new ${signatureText(signature, ": ", names)}`,
    })),
    ...(index
      ? [
          {
            name: "[]",
            field: undefined,
            text: `${index.isReadonly ? "readonly " : ""}[key: ${shapeText(index.key, names)}]: ${shapeText(index.value, names)}`,
          },
        ]
      : []),
    ...[...fields].map(([name, field]) => ({ name, field, text: fieldText(name, field, names) })),
  ];
}

/** Returns a field or method as a member of an interface. */
export function fieldText(name: string, field: Field, names: ShapeNames): string {
  const { shape, isOptional, isReadonly, isMethod } = field;
  const label = `${name.startsWith("[Symbol.") ? name : propertyKey(name)}${isOptional ? "?" : ""}`;
  if (isMethod && shape.kind === "function")
    return shape.signatures
      .map((signature) => `${label}${signatureText(signature, ": ", names)}`)
      .join(";\n");
  return `${isReadonly ? "readonly " : ""}${label}: ${shapeText(shape, names)}`;
}

/** `<T>(a: A, b?: B) => R`, or with `: ` before the result. */
export function signatureText(
  { typeParameters, parameters, result }: SignatureShape,
  arrow: " => " | ": ",
  names: ShapeNames,
): string {
  const declared = typeParameters.map(({ name, constraint }) =>
    constraint ? `${name} extends ${shapeText(constraint, names)}` : name,
  );
  const list = declared.length > 0 ? `<${declared.join(", ")}>` : "";
  const parameterTexts = parameters.map((parameter) => parameterText(parameter, names));
  return `${list}(${parameterTexts.join(", ")})${arrow}${resultText(result, names)}`;
}

function parameterText({ name, shape, isOptional, isRest }: ParameterShape, names: ShapeNames): string {
  return `${isRest ? "..." : ""}${name}${isOptional ? "?" : ""}: ${shapeText(shape, names)}`;
}

function resultText(result: ResultShape, names: ShapeNames): string {
  if (result.kind === "value") return shapeText(result.shape, names);
  const claim = result.shape ? ` is ${shapeText(result.shape, names)}` : "";
  return `${result.isAssertion ? "asserts " : ""}${result.parameter}${claim}`;
}
