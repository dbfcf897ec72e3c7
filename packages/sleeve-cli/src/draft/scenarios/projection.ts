import { type Checker, SymbolFlags, type Type, TypeFlags } from "../../compiler/typescript.ts";
import type { ValueSchema } from "../../documents/surface-document.ts";
import { accessText } from "../../isolation/naming.ts";
import { valueSchemaOf } from "../../types/value-schema.ts";
import { propertyKey } from "../../types/writing/type-text.ts";

const MAX_DEPTH = 4;

/** The types of a target. */
export interface ProjectedTarget {
  readonly targetPath: string;
  /** Whether they follow from use, so that all their fields are read. */
  readonly isFromUse: boolean;
}

/**
 * Returns code for the part of a value that the target declares, so that other fields are not compared; `undefined` if
 * it has no data.
 *
 * @param code code of the value, which may be repeated
 */
export function projected(
  checker: Checker,
  type: Type,
  code: string,
  target: ProjectedTarget,
): string | undefined {
  return new Projection(checker, target).of(type, code, 0);
}

class Projection {
  readonly #checker: Checker;
  readonly #target: ProjectedTarget;

  constructor(checker: Checker, target: ProjectedTarget) {
    this.#checker = checker;
    this.#target = target;
  }

  of(type: Type, code: string, depth: number): string | undefined {
    if ((type.flags & TypeFlags.Void) !== 0 || depth > MAX_DEPTH) return undefined;
    if (this.#isPlainData(type)) return code;
    if (type.isUnionType()) return this.#ofUnion(type.getTypes(), code, depth);
    const [item] = type.isTypeReference() ? this.#checker.getTypeArguments(type) : [];
    if (this.#checker.isArrayType(type) || type.getSymbol()?.name === "ReadonlyArray") {
      const inner = item && this.of(item, "item", depth + 1);
      return inner === undefined ? undefined : `${code}.map((item) => (${inner}))`;
    }
    if (isIterable(type)) return item && this.#isPlainData(item) ? `[...${code}]` : undefined;
    return this.#ofObject(type, code, depth);
  }

  /** Only a value that may be missing can be divided; of other unions, it is unknown which part a value has. */
  #ofUnion(parts: readonly Type[], code: string, depth: number): string | undefined {
    const [object, ...others] = parts.filter((part) => (part.flags & MISSING) === 0);
    const inner = object && others.length === 0 ? this.of(object, code, depth + 1) : undefined;
    return inner === undefined || inner === code ? inner : `${code} && ${inner}`;
  }

  #ofObject(type: Type, code: string, depth: number): string | undefined {
    const checker = this.#checker;
    const symbol = type.getAliasSymbol() ?? type.getSymbol();
    const isDeclared = symbol?.declarations.some(({ path }) => path === this.#target.targetPath);
    // A type that is declared as the module declares it has fields that no caller reads.
    if (!isDeclared || !this.#target.isFromUse) return undefined;
    const [index] = checker.getIndexInfosOfType(type);
    if (index) return this.#isPlainData(index.valueType) ? code : undefined;
    const properties = checker
      .getPropertiesOfType(type)
      .filter(({ flags }) => (flags & SymbolFlags.Method) === 0);
    const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
    const fields = properties.flatMap(({ name }, at) => {
      const fieldType = types[at];
      const field = fieldType && this.of(fieldType, code + accessText(name), depth + 1);
      return field === undefined ? [] : `${propertyKey(name)}: ${field}`;
    });
    return fields.length > 0 ? `{ ${fields.join(", ")} }` : undefined;
  }

  /** Whether values of a type have data only, without parts that the target declares. */
  #isPlainData(type: Type): boolean {
    const isOutside = (path: string) => path === this.#target.targetPath;
    return hasOnlyData(valueSchemaOf(this.#checker, type, { depth: MAX_DEPTH, parts: 200, isOutside }));
  }
}

const MISSING = TypeFlags.Undefined | TypeFlags.Null;

function isIterable(type: Type): boolean {
  return /^(Iterable|IterableIterator|Iterator|IteratorObject|Generator)$/.test(type.getSymbol()?.name ?? "");
}

function hasOnlyData(schema: ValueSchema): boolean {
  const {
    opaque,
    self,
    promise,
    iterable,
    asyncIterable,
    anyOf = [],
    properties = {},
    prefixItems = [],
  } = schema;
  if (opaque !== undefined || self || schema.function) return false;
  const isBare =
    schema.type === "object" && schema.properties !== undefined && Object.keys(properties).length === 0;
  if (isBare) return false;
  if (promise ?? iterable ?? asyncIterable) return false;
  const parts = [
    ...anyOf,
    ...Object.values(properties),
    ...prefixItems,
    schema.items,
    schema.additionalProperties,
  ];
  return parts.every((part) => typeof part !== "object" || hasOnlyData(part));
}
