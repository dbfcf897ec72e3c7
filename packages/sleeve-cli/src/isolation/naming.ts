import { asTypeName, camelCase, entryOf, isIdentifierName } from "../types/writing/type-text.ts";
import { EXPORT_ASSIGNMENT } from "../uses/references.ts";
import { stringLiteral } from "../written-text.ts";

/** Names of isolated members: the outside names, cleaned, except for those in the config. */
export type Names = Readonly<Record<string, string>>;

/**
 * Returns a module's name as a value name: `tideSums` for `@port-ellery/tide-sums`, `kitFp` for `kit/fp`,
 * `rates` for `src/legacy/rates.ts`.
 */
export function valueName(outside: string): string {
  const bare = outside
    .replace(/^node:/, "")
    .replace(/\/$/, "")
    .replace(/\.[cm]?[jt]sx?$/, "")
    .replace(/^@[^/]+\//, "");
  const name = camelCase(
    bare
      .split("/")
      .slice(isOwnPath(outside) ? -1 : -2)
      .join("-"),
  );
  return RESERVED.has(name) || name === "" ? `${name || "outside"}Port` : name;
}

/** Whether a module is a file or folder of the project, named by its path. */
function isOwnPath(outside: string): boolean {
  return /\/$|\.[cm]?[jt]sx?$/.test(outside) && !outside.startsWith("@");
}

/**
 * Returns the name of an adapter's object, and so of its target: the module's name or, if an export has that
 * name, its plural (`berthLedgers` creates a ledger). A name without a plural has `Api` added.
 */
export function objectName(outside: string, taken: ReadonlySet<string>): string {
  const name = valueName(outside);
  const isTaken = [name, asTypeName(name)].some((name) => taken.has(name) || GLOBAL_TYPES.has(name));
  return isTaken ? (pluralOf(name) ?? `${name}Api`) : name;
}

/** Returns the plural of an English noun; `undefined` for a name that is none, or is a plural already. */
function pluralOf(name: string): string | undefined {
  if (/[^a-z]$|(?<!s)s$/.test(name)) return undefined;
  if (/(?:ss|sh|ch|x|z)$/.test(name)) return `${name}es`;
  return /[^aeiou]y$/.test(name) ? `${name.slice(0, -1)}ies` : `${name}s`;
}

/** Returns an export's key in a config: `sum`, `default`, and `fp#map` for a part of a package. */
export function exportKey(outside: string, specifier: string, name: string): string {
  const part = partOf(outside, specifier);
  return part === "" ? name : `${part}#${name}`;
}

/**
 * Returns the part of a module that a specifier names: `fp` of `kit/fp`, `rates` of `src/legacy/rates.ts`.
 */
function partOf(outside: string, specifier: string): string {
  const outsidePath = outside.replace(/\/$/, "");
  if (!specifier.startsWith(`${outsidePath}/`)) return "";
  return specifier.slice(outsidePath.length + 1).replace(/\.[cm]?[jt]sx?$/, "");
}

/**
 * Returns the name of the target's member for an outside export. A default export is named after its module,
 * and constants keep their capitals.
 */
export function memberName(outside: string, specifier: string, name: string, names: Names): string {
  const configName = entryOf(names, exportKey(outside, specifier, name));
  if (configName !== undefined) return configName;
  if (isWholeExport(name)) return valueName(specifier);
  if (/^[A-Z][A-Z\d_]*$/.test(name)) return name;
  const cleaned = name.replace(/^_+|_+$/g, "");
  if (cleaned === "") return name;
  return /^[A-Z]/.test(cleaned) && !cleaned.includes("_") ? cleaned : camelCase(cleaned);
}

/** Whether an export has no name of its own: a default export, or the value that a module is. */
export function isWholeExport(name: string): boolean {
  return name === "default" || name === EXPORT_ASSIGNMENT;
}

/** Returns the name of the target's type for an outside export; in a namespace, it is that of its last part. */
export function typeName(key: string, name: string, names: Names): string {
  return entryOf(names, `type ${key}`) ?? entryOf(names, key) ?? name.split(".").at(-1) ?? name;
}

/** Returns the name of a factory method: `createCrane`. */
export function factoryName(outside: string, specifier: string, name: string, names: Names): string {
  const configName = entryOf(names, `new ${exportKey(outside, specifier, name)}`);
  if (configName !== undefined) return configName;
  const noun = isWholeExport(name) ? valueName(specifier) : name.replace(/^_+|_+$/g, "");
  return `create${noun.charAt(0).toUpperCase()}${noun.slice(1)}`;
}

/** Returns the name of a type guard that replaces `instanceof`: `isRefusal`. */
export function guardName(outside: string, specifier: string, name: string, names: Names): string {
  const configName = entryOf(names, `is ${exportKey(outside, specifier, name)}`);
  if (configName !== undefined) return configName;
  const noun = isWholeExport(name) ? valueName(specifier) : name.replace(/^_+|_+$/g, "");
  return `is${noun.charAt(0).toUpperCase()}${noun.slice(1)}`;
}

/** Returns the name of the target's member for a member of an export whose members the target offers. */
export function openedName(key: string, property: string, names: Names): string {
  return entryOf(names, `${key}.${property}`) ?? property;
}

/**
 * Returns the exported name for callers that keep their names. Parts of a package share the adapter's module,
 * where each name must be unique.
 */
export function reexportName(outside: string, specifier: string, name: string): string {
  if (name === EXPORT_ASSIGNMENT) return valueName(specifier);
  const part = camelCase(partOf(outside, specifier));
  if (part === "") return name;
  if (name === "default") return RESERVED.has(part) ? `${part}Part` : part;
  // Files of a project rarely export the same names, as parts of a package do.
  return isOwnPath(outside) ? name : `${part}${name.charAt(0).toUpperCase()}${name.slice(1)}`;
}

/** Returns an expression for a member of an object, or the object itself if that is the member. */
export function accessText(member: string): string {
  if (member === "") return "";
  return isIdentifierName(member) ? `.${member}` : `[${stringLiteral(member)}]`;
}

/** Reserved words, which cannot name a constant. */
export const RESERVED: ReadonlySet<string> = new Set(
  (
    "abstract any as async await boolean break case catch class const continue debugger declare default delete do else enum " +
    "export extends false finally for from function if implements import in instanceof interface let new null number " +
    "object package private protected public return static string super switch symbol this throw true try type typeof " +
    "undefined unknown var void while with yield arguments eval"
  ).split(" "),
);

/** Names of global types, which copied types should not shadow. */
export const GLOBAL_TYPES: ReadonlySet<string> = new Set([
  "Array",
  "Boolean",
  "Buffer",
  "Date",
  "Error",
  "Function",
  "Iterable",
  "Iterator",
  "Map",
  "Number",
  "Object",
  "Partial",
  "Pick",
  "Omit",
  "Promise",
  "Readonly",
  "Record",
  "RegExp",
  "Set",
  "String",
  "Symbol",
  "URL",
]);
