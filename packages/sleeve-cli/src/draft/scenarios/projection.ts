import { type Checker, SymbolFlags, type Type, TypeFlags } from "../../compiler/typescript.ts";
import type { ValueSchema } from "../../documents/surface-document.ts";
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
  depth = 0,
): string | undefined {
  const isOfTarget = (path: string) => path === target.targetPath;
  if ((type.flags & TypeFlags.Void) !== 0 || depth > MAX_DEPTH) return undefined;
  const again = (part: Type, partCode: string) => projected(checker, part, partCode, target, depth + 1);
  if (isPlainData(checker, type, isOfTarget)) return code;
  if (type.isUnionType()) {
    const present = type.getTypes().filter((part) => (part.flags & MISSING) === 0);
    const [object, ...others] = present;
    const inner = object && others.length === 0 ? again(object, code) : undefined;
    return inner === undefined || inner === code ? inner : `${code} && ${inner}`;
  }
  const [item] = type.isTypeReference() ? checker.getTypeArguments(type) : [];
  if (checker.isArrayType(type) || type.getSymbol()?.name === "ReadonlyArray") {
    const inner = item && again(item, "item");
    return inner === undefined ? undefined : `${code}.map((item) => (${inner}))`;
  }
  if (isIterable(type)) return item && isPlainData(checker, item, isOfTarget) ? `[...${code}]` : undefined;
  const symbol = type.getAliasSymbol() ?? type.getSymbol();
  if (!symbol?.declarations.some(({ path }) => isOfTarget(path))) return undefined;
  // A type that is declared as the module declares it has fields that no caller reads.
  if (!target.isFromUse) return undefined;
  const [index] = checker.getIndexInfosOfType(type);
  if (index) return isPlainData(checker, index.valueType, isOfTarget) ? code : undefined;
  const properties = checker
    .getPropertiesOfType(type)
    .filter(({ flags }) => (flags & SymbolFlags.Method) === 0);
  const types = properties.length > 0 ? checker.getTypeOfSymbol(properties) : [];
  const fields = properties.flatMap(({ name }, index) => {
    const fieldType = types[index];
    const access = /^[\w$]+$/.test(name) ? `${code}.${name}` : `${code}[${JSON.stringify(name)}]`;
    const field = fieldType && again(fieldType, access);
    return field === undefined ? [] : `${propertyKey(name)}: ${field}`;
  });
  return fields.length > 0 ? `{ ${fields.join(", ")} }` : undefined;
}

const MISSING = TypeFlags.Undefined | TypeFlags.Null;

function isIterable(type: Type): boolean {
  return /^(Iterable|IterableIterator|Iterator|IteratorObject|Generator)$/.test(type.getSymbol()?.name ?? "");
}

/** Whether values of a type have data only, without parts that the target declares. */
function isPlainData(checker: Checker, type: Type, isOfTarget: (path: string) => boolean): boolean {
  const isOutside = (path: string) => isOfTarget(path);
  return hasOnlyData(valueSchemaOf(checker, type, { depth: MAX_DEPTH, parts: 200, isOutside }));
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
