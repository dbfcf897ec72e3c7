import { Underivable } from "../reading/derive-context.ts";
import {
  type Field,
  identityOf,
  mapShape,
  type ObjectShape,
  type ResultShape,
  type Shape,
  type SignatureShape,
  someShape,
} from "./shape.ts";

/** What the type arguments of two instances of a generic type are, by parameter. */
export interface Arguments {
  readonly names: readonly string[];
  readonly firstArgs: readonly Shape[];
  readonly secondArgs: readonly Shape[];
}

/**
 * Returns the shape of which two shapes are instances: where they differ, they differ by a type argument.
 *
 * @throws {Underivable} if they differ in another way
 */
export function abstracted(firstShape: Shape, secondShape: Shape, args: Arguments): Shape {
  if (identityOf(firstShape) === identityOf(secondShape)) return firstShape;
  const isParameter = (name: string) =>
    firstShape.kind === "parameter" && !firstShape.isForeign && firstShape.name === name;
  const position = args.names.findIndex(
    (name, index) =>
      (isParameter(name) || isArgument(firstShape, args.firstArgs[index])) &&
      isArgument(secondShape, args.secondArgs[index]),
  );
  const name = args.names[position];
  if (name !== undefined) return { kind: "parameter", name, isForeign: false };
  return within(firstShape, secondShape, args);
}

function isArgument(shape: Shape, argument: Shape | undefined): boolean {
  return argument !== undefined && identityOf(shape) === identityOf(argument);
}

function within(firstShape: Shape, secondShape: Shape, args: Arguments): Shape {
  const abstractedAll = (from: readonly Shape[], to: readonly Shape[]) =>
    paired(from, to).map(([firstPart, secondPart]) => abstracted(firstPart, secondPart, args));
  if (firstShape.kind === "generic" && secondShape.kind === "generic" && firstShape.name === secondShape.name)
    return { ...firstShape, args: abstractedAll(firstShape.args, secondShape.args) };
  if (
    firstShape.kind === "reference" &&
    secondShape.kind === "reference" &&
    firstShape.key === secondShape.key
  )
    return { ...firstShape, args: abstractedAll(firstShape.args, secondShape.args) };
  if (firstShape.kind === "array" && secondShape.kind === "array")
    return { ...firstShape, element: abstracted(firstShape.element, secondShape.element, args) };
  if (firstShape.kind === "union" && secondShape.kind === "union")
    return { ...firstShape, parts: abstractedAll(firstShape.parts, secondShape.parts) };
  return structured(firstShape, secondShape, args);
}

function structured(firstShape: Shape, secondShape: Shape, args: Arguments): Shape {
  if (firstShape.kind === "object" && secondShape.kind === "object")
    return objectOf(firstShape, secondShape, args);
  if (firstShape.kind === "function" && secondShape.kind === "function")
    return { ...firstShape, signatures: signaturesOf(firstShape.signatures, secondShape.signatures, args) };
  if (firstShape.kind === "tuple" && secondShape.kind === "tuple") {
    const elements = paired(firstShape.elements, secondShape.elements).map(([firstPart, secondPart]) => ({
      ...firstPart,
      shape: abstracted(firstPart.shape, secondPart.shape, args),
    }));
    return { ...firstShape, elements };
  }
  throw new Underivable("its instances differ by more than their type arguments");
}

function paired<Item>(
  firstShape: readonly Item[],
  secondShape: readonly Item[],
): readonly (readonly [Item, Item])[] {
  if (firstShape.length !== secondShape.length)
    throw new Underivable("its instances differ by more than their type arguments");
  return firstShape.map((item, index) => [item, secondShape[index] as Item] as const);
}

function objectOf(firstShape: ObjectShape, secondShape: ObjectShape, args: Arguments): ObjectShape {
  const fields = [...firstShape.fields].map(([name, field]): readonly [string, Field] => {
    const secondPart = secondShape.fields.get(name);
    if (!secondPart) throw new Underivable("its instances have different members");
    return [name, { ...field, shape: abstracted(field.shape, secondPart.shape, args) }];
  });
  const { index } = firstShape;
  return {
    ...firstShape,
    fields: new Map(fields),
    index: index &&
      secondShape.index && { ...index, value: abstracted(index.value, secondShape.index.value, args) },
    calls: signaturesOf(firstShape.calls ?? [], secondShape.calls ?? [], args),
    constructs: signaturesOf(firstShape.constructs ?? [], secondShape.constructs ?? [], args),
  };
}

function signaturesOf(
  firstShape: readonly SignatureShape[],
  secondShape: readonly SignatureShape[],
  args: Arguments,
): readonly SignatureShape[] {
  return paired(firstShape, secondShape).map(([firstPart, secondPart]) => ({
    ...firstPart,
    parameters: paired(firstPart.parameters, secondPart.parameters).map(([parameter, otherParameter]) => ({
      ...parameter,
      shape: abstracted(parameter.shape, otherParameter.shape, args),
    })),
    result: resultOf(firstPart.result, secondPart.result, args),
  }));
}

function resultOf(firstShape: ResultShape, secondShape: ResultShape, args: Arguments): ResultShape {
  if (firstShape.kind === "value" && secondShape.kind === "value")
    return { ...firstShape, shape: abstracted(firstShape.shape, secondShape.shape, args) };
  if (
    firstShape.kind === "predicate" &&
    secondShape.kind === "predicate" &&
    firstShape.shape &&
    secondShape.shape
  )
    return { ...firstShape, shape: abstracted(firstShape.shape, secondShape.shape, args) };
  return firstShape;
}

/** Returns the shape of one instance with type parameters in place of its type arguments, which are objects. */
export function generalised(shape: Shape, names: readonly string[], args: readonly Shape[]): Shape {
  return mapShape(shape, (part) => {
    const position = args.findIndex(
      (argument) => isDistinct(argument) && identityOf(argument) === identityOf(part),
    );
    const name = names[position];
    return name === undefined ? undefined : { kind: "parameter", name, isForeign: false };
  });
}

/** Whether a type argument differs from every type that has nothing to do with it: it has a name, or members. */
function isDistinct(argument: Shape): boolean {
  if (argument.kind === "text") return /^[A-Z]/.test(argument.text);
  return argument.kind !== "generic" || someShape(argument, (part) => part !== argument && isDistinct(part));
}
