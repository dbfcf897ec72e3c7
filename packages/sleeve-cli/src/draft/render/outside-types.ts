import { isWord, printedName, RESERVED } from "../../isolation/naming.ts";
import type { OutsideAlias } from "../../types/outside-aliases.ts";
import { asTypeName } from "../../types/type-text.ts";
import { stringLiteral, writtenText } from "../../written-text.ts";
import type { Outline } from "../outline/model.ts";
import { type RenderedSource, SourceBuilder } from "./source-builder.ts";

/** Returns the key of a aliased type, for errors in its line. */
export function aliasKey(name: string): string {
  return `aliased ${name}`;
}

/** Writes the file of the outside types that a target mentions; the only one that names them. */
export function renderOutsideTypes(
  { outside, target, aliased }: Outline,
  written: (specifier: string) => string,
): RenderedSource {
  const lines = new SourceBuilder();
  lines.add(
    `// The types of ${writtenText(outside, "line comment")} that ${target} mentions. Replace each by a type of your own.`,
  );
  const imports = importsOf(aliased);
  const isExported = ({ isOfValue, names }: OutsideAlias) => !isOfValue && names.length === 1;
  const specifiers = [...new Set(aliased.map(({ specifier }) => specifier))];
  for (const specifier of specifiers) {
    const from = `from ${stringLiteral(written(specifier))};`;
    const own = [...imports.values()].filter((item) => item.specifier === specifier);
    for (const { local } of own.filter(({ name }) => name === "default"))
      lines.add(`import type ${local} ${from}`);
    const named = own.filter(({ name }) => name !== "default");
    const list = named.map(({ name, local }) => renamed(name, local)).join(", ");
    if (named.length > 0) lines.add(`import type { ${list} } ${from}`);
  }
  lines.add("");
  for (const specifier of specifiers) {
    const from = `from ${stringLiteral(written(specifier))};`;
    const own = aliased.filter((type) => isExported(type) && type.specifier === specifier);
    if (own.length > 1) lines.add("export type {");
    for (const { name, names } of own) {
      const what = renamed(names[0] ?? "", name);
      lines.add(own.length > 1 ? `  ${what},` : `export type { ${what} } ${from}`, [aliasKey(name)]);
    }
    if (own.length > 1) lines.add(`} ${from}`);
  }
  for (const type of aliased) {
    if (isExported(type)) continue;
    const { name, names, isOfValue, parameters } = type;
    const [first = "", ...rest] = names;
    const local = imports.get(importKey(type))?.local ?? first;
    const path = [local, ...rest].join(".");
    lines.add(`export type ${name}${parameters} = ${isOfValue ? "typeof " : ""}${path}${type.arguments};`, [
      aliasKey(name),
    ]);
  }
  return lines.build();
}

/** `Options`, or `Options as KitOptions`. */
function renamed(name: string, as: string): string {
  return name === as ? name : `${printedName(name)} as ${as}`;
}

interface TypeImport {
  readonly specifier: string;
  readonly name: string;
  readonly local: string;
}

function importKey({ specifier, names: [first = ""] }: OutsideAlias): string {
  return `${specifier}\0${first}`;
}

/** Returns the imports that aliases need, under local names that no alias has. */
function importsOf(types: readonly OutsideAlias[]): ReadonlyMap<string, TypeImport> {
  const imports = new Map<string, TypeImport>();
  const taken = new Set(types.map(({ name }) => name));
  for (const type of types) {
    const [name = "", ...rest] = type.names;
    if (imports.has(importKey(type)) || (!type.isOfValue && rest.length === 0)) continue;
    const wanted = name === "default" ? "outside" : name;
    let local = wanted;
    for (let count = 1; taken.has(local) || RESERVED.has(local) || !isWord(local); count++)
      local = `outside${asTypeName(isWord(wanted) ? wanted : "Value")}${count === 1 ? "" : count}`;
    taken.add(local);
    imports.set(importKey(type), { specifier: type.specifier, name, local });
  }
  return imports;
}
