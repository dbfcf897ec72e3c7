import { isWord, printedName, RESERVED } from "../../isolation/naming.ts";
import type { OutsideAlias } from "../../types/outside-aliases.ts";
import { asTypeName } from "../../types/type-text.ts";
import type { Outline } from "../outline.ts";
import { type RenderedSource, SourceBuilder } from "./source-builder.ts";

/** Returns the key of a handed-on type, for errors in its line. */
export function aliasKey(name: string): string {
  return `aliased ${name}`;
}

/** Writes the file of the outside types that a target mentions; the only one that names them. */
export function renderOutsideTypes(
  { outside, target, aliased }: Outline,
  written: (specifier: string) => string,
): RenderedSource {
  const lines = new SourceBuilder();
  lines.add(`// The types of ${outside} that ${target} mentions. Replace each by a type of your own.`);
  const imports = importsOf(aliased);
  for (const { specifier, name, local } of imports.values()) {
    const what =
      name === "default" ? local : `{ ${name === local ? name : `${printedName(name)} as ${local}`} }`;
    lines.add(`import type ${what} from ${JSON.stringify(written(specifier))};`);
  }
  lines.add("");
  for (const type of aliased) {
    const { name, specifier, names, isOfValue, parameters } = type;
    const [first = "", ...rest] = names;
    const key = [aliasKey(name)];
    if (!isOfValue && rest.length === 0) {
      const what = first === name ? name : `${printedName(first)} as ${name}`;
      lines.add(`export type { ${what} } from ${JSON.stringify(written(specifier))};`, key);
      continue;
    }
    const local = imports.get(importKey(type))?.local ?? first;
    const path = [local, ...rest].join(".");
    lines.add(
      `export type ${name}${parameters} = ${isOfValue ? "typeof " : ""}${path}${type.arguments};`,
      key,
    );
  }
  return lines.build();
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
