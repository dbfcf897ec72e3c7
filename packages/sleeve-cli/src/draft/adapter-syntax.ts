import type { Language } from "../isolation/language.ts";
import { accessText, writtenName } from "../isolation/naming.ts";
import type { AdapterImport } from "./import-names.ts";
import type { PassedOn } from "./outline.ts";

/** How a language says what an adapter's module has to say. */
export interface AdapterSyntax {
  /** What a file begins with that has something for the compiler to check, or has nothing. */
  opening(isChecked: boolean): readonly string[];
  importOf(wanted: AdapterImport): readonly string[];
  /** Imports a module for nothing but what that does. */
  touch(from: string): readonly string[];
  /** The types of the target that the module speaks of, by their names. */
  importTypes(names: readonly string[], hasOwn: boolean, from: string): readonly string[];
  handAll(from: string, isItself: boolean): readonly string[];
  /** Names of one module that are handed on as they are, all of them types, or none. */
  handOn(names: readonly PassedOn[], from: string, isType: boolean): readonly string[];
  /** The line, or lines, up to what the object is. */
  object(doc: string, name: string, type: string, from: string): readonly string[];
  /** What follows it. */
  afterObject(name: string): readonly string[];
  /** A value under a name that callers keep; `local` is a name for it within the module, where it is no word. */
  hand(name: string, value: string, local: string | undefined): readonly string[];
  /** A type of the target under a name that callers keep. */
  handType(own: string, name: string, parameters: string, from: string): readonly string[];
  /** The same of a name that is a value's too. */
  handTypeBeside(own: string, name: string, parameters: string, from: string): readonly string[];
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

const quoted = (specifier: string) => JSON.stringify(specifier);

/** `Crane as Hoist`, and of names that are one, that. */
function renamed(name: string, as: string): string {
  return name === as ? writtenName(name) : `${writtenName(name)} as ${writtenName(as)}`;
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
    const from = `from ${quoted(specifier)};`;
    const parts = standard === undefined ? [] : [standard];
    if (namespace === undefined) return [`import ${[...parts, ...names].join(", ")} ${from}`];
    // An import cannot name the whole and some of it at once.
    if (names.length > 0)
      return [`import * as ${namespace} ${from}`, `import ${[...parts, ...names].join(", ")} ${from}`];
    return [`import ${[...parts, `* as ${namespace}`].join(", ")} ${from}`];
  },
  touch: (from) => [`import ${quoted(from)};`],
  importTypes: (names, hasOwn, from) => [
    ...(hasOwn ? [`import type * as own from ${quoted(from)};`] : []),
    `import type ${list(names)} from ${quoted(from)};`,
  ],
  handAll: (from) => [`export * from ${quoted(from)};`],
  handOn: (names, from, isType) => {
    const words = names.map((each) => renamed(each.export, each.handed));
    return [`export ${isType ? "type " : ""}${list(words)} from ${quoted(from)};`];
  },
  object: (doc, name, type) => [`/** ${doc} */`, `export const ${name}: ${type} = `],
  afterObject: () => [],
  hand: (name, value, local) => {
    if (name === "default") return [`export default ${value};`];
    if (local !== undefined) return [`const ${local} = ${value};`, `export { ${renamed(local, name)} };`];
    return [`export const ${name} = ${value};`];
  },
  handType: (own, name, _, from) => [`export type { ${renamed(own, name)} } from ${quoted(from)};`],
  handTypeBeside: (own, name, parameters) => [
    `export type ${name}${parameters} = own.${own}${argumentsIn(parameters)};`,
  ],
};

/** In a script, types stand in comments; a type that takes others cannot be handed on so. */
function typedef(own: string, name: string, parameters: string, from: string): readonly string[] {
  return parameters === "" ? [`/** @typedef {import(${quoted(from)}).${own}} ${name} */`] : [];
}

const SCRIPT = {
  importTypes: () => [],
  handType: typedef,
  handTypeBeside: typedef,
  object: (doc: string, type: string, from: string, start: string) => [
    "/**",
    ` * ${doc}`,
    " *",
    ` * @type {import(${quoted(from)}).${type}}`,
    " */",
    start,
  ],
};

const MODULE: AdapterSyntax = {
  ...SCRIPT,
  opening: (isChecked) => (isChecked ? ["// @ts-check"] : []),
  importOf: TYPESCRIPT.importOf,
  touch: TYPESCRIPT.touch,
  handAll: TYPESCRIPT.handAll,
  handOn: (names, from, isType) =>
    isType
      ? names.flatMap((each) => typedef(each.export, each.handed, "", from))
      : TYPESCRIPT.handOn(names, from, false),
  object: (doc, name, type, from) => SCRIPT.object(doc, type, from, `export const ${name} = `),
  afterObject: () => [],
  hand: TYPESCRIPT.hand,
};

/** What is put on `exports` by its name, modules that import it can name too. */
const exported = (name: string, value: string) =>
  /^[A-Za-z_$][\w$]*$/.test(name) ? `exports.${name} = ${value};` : `exports[${quoted(name)}] = ${value};`;

const COMMONJS: AdapterSyntax = {
  ...SCRIPT,
  opening: (isChecked) => [...(isChecked ? ["// @ts-check"] : []), '"use strict";'],
  importOf: ({ specifier, standard, namespace, named }) => {
    const names = [...(standard === undefined ? [] : [`default: ${standard}`]), ...named];
    const from = `require(${quoted(specifier)});`;
    return [
      ...(namespace === undefined ? [] : [`const ${namespace} = ${from}`]),
      ...(names.length === 0 ? [] : [`const ${list(names)} = ${from}`]),
    ];
  },
  touch: (from) => [`require(${quoted(from)});`],
  handAll: (from, isItself) => [
    isItself
      ? `module.exports = require(${quoted(from)});`
      : `Object.assign(exports, require(${quoted(from)}));`,
  ],
  handOn: (names, from, isType) =>
    names.flatMap((each) =>
      isType
        ? typedef(each.export, each.handed, "", from)
        : [exported(each.handed, `require(${quoted(from)})${accessText(each.export)}`)],
    ),
  object: (doc, name, type, from) => SCRIPT.object(doc, type, from, `const ${name} = `),
  afterObject: (name) => [exported(name, name)],
  hand: (name, value) => [exported(name, value)],
};
