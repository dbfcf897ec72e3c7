/** How a project names what it isolates: by the outside names, cleaned, but for those that its config gives. */
export type Names = Readonly<Record<string, string>>;

/** `@port-ellery/tide-sums` as the name of a value: `tideSums`; `kit/fp` as `kitFp`, and `src/legacy/rates.ts` as `rates`. */
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

/** Whether a module is a file or a folder of the project's own, which is named by its path. */
function isOwnPath(outside: string): boolean {
  return /\/$|\.[cm]?[jt]sx?$/.test(outside) && !outside.startsWith("@");
}

/** The name of a value as that of a type: `TideSums`. */
export function asTypeName(name: string): string {
  return `${name.charAt(0).toUpperCase()}${name.slice(1)}`;
}

/**
 * The name of an adapter's object, and so of its target: that of the module or, where that is taken by what the module
 * exports, its plural: a ledger is made by `berthLedgers`.
 */
export function objectName(outside: string, taken: ReadonlySet<string>): string {
  const name = valueName(outside);
  const isTaken = [name, asTypeName(name)].some((each) => taken.has(each) || GLOBAL_TYPES.has(each));
  return isTaken ? `${name}s` : name;
}

/** `tide-sums`, `tide_sums`, `TIDE sums` as `tideSums`; what is already in one case after the other stays as it is. */
export function camelCase(text: string): string {
  const words = text.split(/[^\p{ID_Continue}$]+|_+/u).filter((word) => word !== "");
  const [first = "", ...rest] = words;
  const joined = [
    words.length > 1 ? first.toLowerCase() : `${first.charAt(0).toLowerCase()}${first.slice(1)}`,
    ...rest.map((word) => `${word.charAt(0).toUpperCase()}${word.slice(1)}`),
  ].join("");
  return joined.replace(/^\d/, "n$&");
}

/** How an export of a module is written in a config: `sum`, `default`, and of a part of a package `fp#map`. */
export function exportKey(outside: string, specifier: string, name: string): string {
  const part = partOf(outside, specifier);
  return part === "" ? name : `${part}#${name}`;
}

/** The part of a module that a specifier leads to: `fp` of `kit/fp`, `rates` of `src/legacy/rates.ts`. */
function partOf(outside: string, specifier: string): string {
  const whole = outside.replace(/\/$/, "");
  if (!specifier.startsWith(`${whole}/`)) return "";
  return specifier.slice(whole.length + 1).replace(/\.[cm]?[jt]sx?$/, "");
}

/**
 * The name of the target's member in the place of an outside export. A default export is called like its module, and
 * constants keep their capitals, as these say what they are.
 */
export function memberName(outside: string, specifier: string, name: string, names: Names): string {
  const given = names[exportKey(outside, specifier, name)];
  if (given !== undefined) return given;
  if (name === "default") return valueName(specifier);
  if (/^[A-Z][A-Z\d_]*$/.test(name)) return name;
  const cleaned = name.replace(/^_+|_+$/g, "");
  if (cleaned === "") return name;
  return /^[A-Z]/.test(cleaned) && !cleaned.includes("_") ? cleaned : camelCase(cleaned);
}

/** The name of the method that makes what the project constructed: `createCrane`. */
export function factoryName(outside: string, specifier: string, name: string, names: Names): string {
  const given = names[`new ${exportKey(outside, specifier, name)}`];
  if (given !== undefined) return given;
  const whole = name === "default" ? valueName(specifier) : name.replace(/^_+|_+$/g, "");
  return `create${whole.charAt(0).toUpperCase()}${whole.slice(1)}`;
}

/**
 * The name under which an adapter's module exports something for callers that keep its name. Parts of a package share
 * the adapter's module, where each name can be there once.
 */
export function handedName(outside: string, specifier: string, name: string): string {
  const part = camelCase(partOf(outside, specifier));
  if (part === "") return name;
  if (name === "default") return RESERVED.has(part) ? `${part}Part` : part;
  // Files of one's own seldom export the same names, as parts of a package do.
  return isOwnPath(outside) ? name : `${part}${name.charAt(0).toUpperCase()}${name.slice(1)}`;
}

/** An export's name as an import or export statement writes it: in quotes where it is no word. */
export function writtenName(name: string): string {
  return isWord(name) ? name : JSON.stringify(name);
}

/** A member of an object as an expression reaches it; the object itself where that is the member. */
export function accessText(member: string): string {
  if (member === "") return "";
  return isWord(member) ? `.${member}` : `[${JSON.stringify(member)}]`;
}

export function isWord(name: string): boolean {
  return /^[\p{ID_Start}$_][\p{ID_Continue}$\u200c\u200d]*$/u.test(name);
}

/** Words that cannot name a constant. */
export const RESERVED: ReadonlySet<string> = new Set(
  (
    "abstract any as async await boolean break case catch class const continue debugger declare default delete do else enum " +
    "export extends false finally for from function if implements import in instanceof interface let new null number " +
    "object package private protected public return static string super switch symbol this throw true try type typeof " +
    "undefined unknown var void while with yield arguments eval"
  ).split(" "),
);

/** Whether source speaks of a name, by itself and not as a member of something. */
export function mentionsName(text: string, name: string): boolean {
  return new RegExp(`(?<![\\w$.])${name.replaceAll("$", "\\$")}(?![\\w$])`).test(text);
}

/** What types of ours had better not be called. */
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
