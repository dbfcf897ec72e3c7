import type { Language } from "../../isolation/file-language.ts";
import { accessText, printedName } from "../../isolation/naming.ts";
import { EXPORT_ASSIGNMENT } from "../../uses/references.ts";
import { stringLiteral } from "../../written-text.ts";
import type { Reexport } from "../outline/reexports.ts";
import type { AdapterImport } from "./import-names.ts";

/** How a language expresses the parts of an adapter's module. */
export interface AdapterSyntax {
  /** First lines of a file, with or without code for the compiler to check. */
  opening(isChecked: boolean): readonly string[];
  importOf(wanted: AdapterImport): readonly string[];
  /** Imports a module for its side effects. */
  touch(from: string): readonly string[];
  /** Imports the named types of the target. */
  importTypes(names: readonly string[], hasOwn: boolean, from: string): readonly string[];
  reexportAll(from: string, isItself: boolean): readonly string[];
  /** Re-exports names of one module: all of them types, or none. */
  reexport(names: readonly Reexport[], from: string, isType: boolean): readonly string[];
  /** The lines before the object literal. */
  object(doc: string, name: string, type: string, from: string): readonly string[];
  /** The lines after it. */
  afterObject(name: string): readonly string[];
  /**
   * Exports a value of a type under the name that callers keep; `local` is an internal name if that one is not an
   * identifier.
   */
  exportValue(name: string, value: string, local: string | undefined, type: string): readonly string[];
  /** Exports a type of the target under the name that callers keep. */
  exportType(own: string, name: string, parameters: string, from: string): readonly string[];
  /** The same for a name that is also a value's. */
  exportTypeWithValue(own: string, name: string, parameters: string, from: string): readonly string[];
}

export function syntaxOf(language: Language): AdapterSyntax {
  switch (language) {
    case "typescript":
      return TYPESCRIPT;
    case "module":
      return MODULE;
    case "commonjs":
      return COMMONJS;
  }
}

/** `Crane as Hoist`; a single name if both are equal. */
function renamed(name: string, as: string): string {
  return name === as ? printedName(name) : `${printedName(name)} as ${printedName(as)}`;
}

const list = (names: readonly string[]) => `{ ${names.join(", ")} }`;

function argumentsIn(parameters: string): string {
  const names = [...parameters.matchAll(/[<,]\s*(?:const )?([\w$]+)(?=[ ,>])/g)].map(([, each]) => each);
  return names.length === 0 ? "" : `<${names.join(", ")}>`;
}

const TYPESCRIPT: AdapterSyntax = {
  opening: () => [],
  importOf: ({ specifier, standard, namespace, named }) => {
    const names = named.length > 0 ? [list(named)] : [];
    const from = `from ${stringLiteral(specifier)};`;
    const parts = standard === undefined ? [] : [standard];
    if (namespace === undefined) return [`import ${[...parts, ...names].join(", ")} ${from}`];
    // An import cannot combine a namespace with named imports.
    if (names.length > 0)
      return [`import * as ${namespace} ${from}`, `import ${[...parts, ...names].join(", ")} ${from}`];
    return [`import ${[...parts, `* as ${namespace}`].join(", ")} ${from}`];
  },
  touch: (from) => [`import ${stringLiteral(from)};`],
  importTypes: (names, hasOwn, from) => [
    ...(hasOwn ? [`import type * as own from ${stringLiteral(from)};`] : []),
    `import type ${list(names)} from ${stringLiteral(from)};`,
  ],
  reexportAll: (from) => [`export * from ${stringLiteral(from)};`],
  reexport: (names, from, isType) => {
    const modules = names.filter((name) => name.export === EXPORT_ASSIGNMENT);
    const words = names
      .filter((name) => !modules.includes(name))
      .map((name) => renamed(name.export, name.reexportedAs));
    return [
      ...modules.flatMap(({ reexportedAs }) => [
        `import * as ${reexportedAs}Module from ${stringLiteral(from)};`,
        `export { ${renamed(`${reexportedAs}Module`, reexportedAs)} };`,
      ]),
      ...(words.length > 0
        ? [`export ${isType ? "type " : ""}${list(words)} from ${stringLiteral(from)};`]
        : []),
    ];
  },
  object: (doc, name, type) => [`/** ${doc} */`, `export const ${name}: ${type} = `],
  afterObject: () => [],
  // The type is written, because a call of an assertion function requires it, and so do some settings.
  exportValue: (name, value, local, type) => {
    if (name === "default") return [`export default ${value};`];
    if (local !== undefined)
      return [`const ${local}: ${type} = ${value};`, `export { ${renamed(local, name)} };`];
    return [`export const ${name}: ${type} = ${value};`];
  },
  exportType: (own, name, _, from) => [`export type { ${renamed(own, name)} } from ${stringLiteral(from)};`],
  exportTypeWithValue: (own, name, parameters) => [
    `export type ${name}${parameters} = own.${own}${argumentsIn(parameters)};`,
  ],
};

/** In scripts, types are written in comments, and a generic type cannot be re-exported in this way. */
function typedef(own: string, name: string, parameters: string, from: string): readonly string[] {
  return parameters === "" ? [`/** @typedef {import(${stringLiteral(from)}).${own}} ${name} */`] : [];
}

const SCRIPT = {
  importTypes: () => [],
  exportType: typedef,
  exportTypeWithValue: typedef,
  object: (doc: string, type: string, from: string, start: string) => [
    "/**",
    ` * ${doc}`,
    " *",
    ` * @type {import(${stringLiteral(from)}).${type}}`,
    " */",
    start,
  ],
};

const MODULE: AdapterSyntax = {
  ...SCRIPT,
  opening: (isChecked) => (isChecked ? ["// @ts-check"] : []),
  importOf: TYPESCRIPT.importOf,
  touch: TYPESCRIPT.touch,
  reexportAll: TYPESCRIPT.reexportAll,
  reexport: (names, from, isType) =>
    isType
      ? names.flatMap((name) => typedef(name.export, name.reexportedAs, "", from))
      : TYPESCRIPT.reexport(names, from, false),
  object: (doc, name, type, from) => SCRIPT.object(doc, type, from, `export const ${name} = `),
  afterObject: () => [],
  exportValue: (name, value, local) => {
    if (name === "default") return [`export default ${value};`];
    if (local !== undefined) return [`const ${local} = ${value};`, `export { ${renamed(local, name)} };`];
    return [`export const ${name} = ${value};`];
  },
};

/** The module itself, if it is the value. */
function memberAccess(name: string): string {
  return name === EXPORT_ASSIGNMENT ? "" : accessText(name);
}

/** Modules can import properties of `exports` by name. */
const exported = (name: string, value: string) =>
  /^[A-Za-z_$][\w$]*$/.test(name)
    ? `exports.${name} = ${value};`
    : `exports[${stringLiteral(name)}] = ${value};`;

const COMMONJS: AdapterSyntax = {
  ...SCRIPT,
  opening: (isChecked) => [...(isChecked ? ["// @ts-check"] : []), '"use strict";'],
  importOf: ({ specifier, standard, namespace, named }) => {
    const names = [...(standard === undefined ? [] : [`default: ${standard}`]), ...named];
    const from = `require(${stringLiteral(specifier)});`;
    return [
      ...(namespace === undefined ? [] : [`const ${namespace} = ${from}`]),
      ...(names.length === 0 ? [] : [`const ${list(names)} = ${from}`]),
    ];
  },
  touch: (from) => [`require(${stringLiteral(from)});`],
  reexportAll: (from, isItself) => [
    isItself
      ? `module.exports = require(${stringLiteral(from)});`
      : `Object.assign(exports, require(${stringLiteral(from)}));`,
  ],
  reexport: (names, from, isType) =>
    names.flatMap((name) =>
      isType
        ? typedef(name.export, name.reexportedAs, "", from)
        : [exported(name.reexportedAs, `require(${stringLiteral(from)})${memberAccess(name.export)}`)],
    ),
  object: (doc, name, type, from) => SCRIPT.object(doc, type, from, `const ${name} = `),
  afterObject: (name) => [exported(name, name)],
  exportValue: (name, value) => [exported(name, value)],
};
