import {
  type Field,
  identityOf,
  type ObjectShape,
  type ParameterShape,
  type Shape,
  type SignatureShape,
  text,
  UNKNOWN,
  valueResult,
} from "./shape.ts";

/**
 * Returns the shape of all values of several shapes: objects by field, arrays by element, functions by parameter, and
 * everything else as a union without duplicates.
 */
export function unionOf(shapes: readonly Shape[]): Shape {
  const parts = shapes.flatMap((shape) => (shape.kind === "union" ? shape.parts : [shape]));
  if (parts.length === 0) return UNKNOWN;
  if (parts.some(isUnknown)) return UNKNOWN;
  const merged = [
    ...distinct(parts.filter((part) => !isMergeable(part))),
    ...mergedObjects(parts.filter((part) => part.kind === "object")),
    ...mergedFunctions(parts),
    ...mergedArrays(parts.filter((part) => part.kind === "array")),
  ];
  const wide = withoutLiterals(withBoolean(merged));
  // The order of the source, except that what is missing comes last.
  const isMissing = (part: Shape) =>
    part.kind === "text" && (part.text === "undefined" || part.text === "null");
  const ordered = [...wide.filter((part) => !isMissing(part)), ...wide.filter(isMissing)];
  const [onlyPart] = ordered;
  return ordered.length === 1 && onlyPart ? onlyPart : { kind: "union", parts: ordered };
}

export function isUnknown(shape: Shape): boolean {
  return shape.kind === "text" && shape.text === "unknown";
}

/** Returns a shape without `undefined`. */
export function definedPart(shape: Shape): Shape {
  if (shape.kind !== "union") return shape;
  const parts = shape.parts.filter((part) => !(part.kind === "text" && part.text === "undefined"));
  return parts.length === shape.parts.length ? shape : unionOf(parts);
}

function isMergeable({ kind }: Shape): boolean {
  return kind === "object" || kind === "function" || kind === "array";
}

function distinct(parts: readonly Shape[]): readonly Shape[] {
  return [...new Map(parts.map((part) => [identityOf(part), part])).values()];
}

function withBoolean(parts: readonly Shape[]): readonly Shape[] {
  const has = (word: string) => parts.some((part) => part.kind === "text" && part.text === word);
  if (!(has("true") && has("false")) && !has("boolean")) return parts;
  const others = parts.filter((part) => part.kind !== "text" || !/^(true|false|boolean)$/.test(part.text));
  return [...others, text("boolean")];
}

/** Drops literals whose base type is another part. */
function withoutLiterals(parts: readonly Shape[]): readonly Shape[] {
  const has = (word: string) => parts.some((part) => part.kind === "text" && part.text === word);
  return parts.filter((part) => {
    const base = part.kind === "text" ? baseOf(part.text) : undefined;
    return base === undefined || !has(base);
  });
}

/** Returns the base type of a literal: `string` for `"day"`. */
export function baseOf(literal: string): string | undefined {
  if (literal.startsWith('"')) return "string";
  if (literal.startsWith("`")) return "string";
  if (/^-?\d+n$/.test(literal)) return "bigint";
  return /^-?\d/.test(literal) ? "number" : undefined;
}

function mergedObjects(objects: readonly ObjectShape[]): readonly Shape[] {
  if (objects.length < 2) return objects;
  // Objects of different outside types, such as a request and a response, stay apart.
  const byName = new Map<string, ObjectShape[]>();
  for (const object of objects) {
    const key = object.fields.size === 0 ? "" : (object.outsideName ?? "");
    byName.set(key, [...(byName.get(key) ?? []), object]);
  }
  return [...byName.values()].map(mergedObject);
}

function mergedObject(objects: readonly ObjectShape[]): ObjectShape {
  const names = [...new Set(objects.flatMap(({ fields }) => [...fields.keys()]))];
  const fields = new Map(
    names.map((name): readonly [string, Field] => {
      const present = objects.flatMap((object) => object.fields.get(name) ?? []);
      const [firstField] = present;
      if (!firstField) throw new Error("A field belongs to an object.");
      return [
        name,
        {
          ...firstField,
          shape: unionOf(present.map(({ shape }) => shape)),
          isOptional: present.length < objects.length || present.some(({ isOptional }) => isOptional),
        },
      ];
    }),
  );
  const indexes = objects.flatMap((object) => object.index ?? []);
  const [firstIndex] = indexes;
  const index = firstIndex && { ...firstIndex, value: unionOf(indexes.map(({ value }) => value)) };
  const calls = objects.find((object) => object.calls)?.calls;
  const constructs = objects.find((object) => object.constructs)?.constructs;
  return { kind: "object", fields, index, calls, constructs, outsideName: objects[0]?.outsideName };
}

function mergedArrays(arrays: readonly (Shape & { kind: "array" })[]): readonly Shape[] {
  if (arrays.length === 0) return [];
  const element = unionOf(arrays.map((array) => array.element));
  return [{ kind: "array", element, isReadonly: arrays.some(({ isReadonly }) => isReadonly) }];
}

function mergedFunctions(parts: readonly Shape[]): readonly Shape[] {
  const functions = parts.filter((part) => part.kind === "function");
  const [firstFunction] = functions;
  if (!firstFunction || functions.length === 1) return functions;
  const signatures = functions.flatMap((part) => part.signatures);
  const isSimple = functions.every((part) => part.signatures.length === 1 && part.isNew !== true);
  if (!isSimple || signatures.some(({ typeParameters }) => typeParameters.length > 0))
    return distinct(functions);
  const merged = mergedSignature(signatures);
  return merged ? [{ kind: "function", signatures: [merged] }] : distinct(functions);
}

/** Returns one signature for functions that are passed for the same parameter. */
function mergedSignature(signatures: readonly SignatureShape[]): SignatureShape | undefined {
  const most = Math.max(...signatures.map(({ parameters }) => parameters.length));
  const parameters = Array.from({ length: most }, (_, index): ParameterShape => {
    const present = signatures.flatMap((signature) => signature.parameters[index] ?? []);
    const [firstParameter] = present;
    if (!firstParameter) throw new Error("A parameter belongs to a signature.");
    return {
      ...firstParameter,
      shape: unionOf(present.map(({ shape }) => shape)),
      isOptional: present.every(({ isOptional }) => isOptional),
    };
  });
  const results = signatures.map(({ result }) => result);
  const [firstResult] = results;
  if (firstResult?.kind === "predicate") return undefined;
  const shapes = results.flatMap((result) => (result.kind === "value" ? [result.shape] : []));
  return { typeParameters: [], parameters, result: valueResult(unionOf(shapes)) };
}
