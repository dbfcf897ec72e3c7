import { asTypeName } from "../../writing/type-text.ts";
import type { DerivedType } from "./derived-type.ts";
import {
  type Field,
  identityOf,
  type ObjectShape,
  type Shape,
  type SignatureShape,
  someShape,
} from "./shape.ts";

/** An object without a name that has more fields than these gets one. */
const MOST_INLINE = 3;

interface NamedMember {
  readonly name: string;
  readonly field: Field;
}

interface NamedObjects {
  readonly fields: readonly Field[];
  readonly types: readonly DerivedType[];
  /** The types of the objects that were named. */
  readonly created: readonly DerivedType[];
}

/** Gives large objects in members and types names, after the place where they are first mentioned. */
export function namedObjects(
  members: readonly NamedMember[],
  types: readonly DerivedType[],
  freeName: (name: string) => string,
): NamedObjects {
  const naming = new Naming(freeName);
  const fields = members.map(({ name, field }) => ({
    ...field,
    shape: naming.within(field.shape, name, ""),
  }));
  const named = types.map((type) => ({
    ...type,
    shape:
      type.shape.kind === "object"
        ? naming.fieldsOf(type.shape, type.name)
        : naming.within(type.shape, type.name, ""),
  }));
  return { fields, types: named, created: naming.created };
}

class Naming {
  readonly created: DerivedType[] = [];
  readonly #freeName: (name: string) => string;
  readonly #byIdentity = new Map<string, string>();

  constructor(freeName: (name: string) => string) {
    this.#freeName = freeName;
  }

  /** @param owner the name of what mentions the shape, and `part` that of the parameter or field */
  within(shape: Shape, owner: string, part: string): Shape {
    const inside = (inner: Shape) => this.within(inner, owner, part);
    switch (shape.kind) {
      case "object":
        return this.#object(shape, owner, part);
      case "function":
        return {
          ...shape,
          signatures: shape.signatures.map((signature) => this.#signature(signature, owner)),
        };
      case "array":
        return { ...shape, element: inside(shape.element) };
      case "union":
        return { ...shape, parts: shape.parts.map(inside) };
      case "generic":
      case "reference":
        return { ...shape, args: shape.args.map(inside) };
      case "tuple":
        return {
          ...shape,
          elements: shape.elements.map((element) => ({ ...element, shape: inside(element.shape) })),
        };
      case "text":
      case "parameter":
        return shape;
    }
  }

  fieldsOf(shape: ObjectShape, owner: string): ObjectShape {
    const fields = [...shape.fields].map(
      ([name, field]) => [name, { ...field, shape: this.within(field.shape, owner, name) }] as const,
    );
    return {
      ...shape,
      fields: new Map(fields),
      calls: shape.calls?.map((signature) => this.#signature(signature, owner)),
      constructs: shape.constructs?.map((signature) => this.#signature(signature, owner)),
    };
  }

  #signature(signature: SignatureShape, owner: string): SignatureShape {
    const { parameters, result } = signature;
    return {
      ...signature,
      parameters: parameters.map((parameter) => ({
        ...parameter,
        shape: this.within(parameter.shape, owner, parameter.name),
      })),
      result:
        result.kind === "value" ? { ...result, shape: this.within(result.shape, owner, "result") } : result,
    };
  }

  #object(shape: ObjectShape, owner: string, part: string): Shape {
    const isParameterized = someShape(shape, ({ kind }) => kind === "parameter");
    if (shape.fields.size <= MOST_INLINE || isParameterized || part === "")
      return this.fieldsOf(shape, owner);
    const identity = identityOf(shape);
    const known = this.#byIdentity.get(identity);
    if (known !== undefined) return { kind: "reference", key: known, args: [] };
    const preferredName = nameOf(owner, part);
    let name = this.#freeName(preferredName);
    for (let count = 2; this.created.some((type) => type.name === name); count++)
      name = this.#freeName(`${preferredName}${count}`);
    const key = `object ${name}`;
    this.#byIdentity.set(identity, key);
    this.created.push({
      key,
      name,
      outsideName: name,
      parameters: [],
      bases: [],
      shape: this.fieldsOf(shape, name),
      doc: undefined,
      alias: undefined,
    });
    return { kind: "reference", key, args: [] };
  }
}

function nameOf(owner: string, part: string): string {
  const ownerName = asTypeName(owner);
  const partName = asTypeName(part);
  return ownerName.endsWith(partName) ? ownerName : `${ownerName}${partName}`;
}
