import type { Declaration, Import, Module } from "../../emit/module.ts";
import { RESERVED } from "../../isolation/naming.ts";
import type { OutsideAlias } from "../../types/outside-aliases.ts";
import { asTypeName, isIdentifierName } from "../../types/writing/type-text.ts";
import { writtenText } from "../../written-text.ts";
import type { Outline } from "../outline/model.ts";

/** Returns the owner of errors in an aliased type. */
export function aliasKey(name: string): string {
  return `aliased ${name}`;
}

/** Returns the file of the outside types that a target mentions; the only one that names them. */
export function outsideTypesModule(
  { outside, target, aliased }: Outline,
  writtenSpecifier: (specifier: string) => string,
): Module {
  const imports = importsOf(aliased, writtenSpecifier);
  return {
    opening: [
      `// The types of ${writtenText(outside, "line comment")} that ${target} mentions. Replace each by a type of your own.`,
    ],
    imports: [...imports.values()],
    declarations: [
      ...reexportsOf(aliased.filter(isExport), writtenSpecifier),
      ...aliased.filter((type) => !isExport(type)).map((type) => aliasOf(type, imports)),
    ],
  };
}

/** Whether a type is an export of its own. */
function isExport({ isOfValue, names }: OutsideAlias): boolean {
  return !isOfValue && names.length === 1;
}

function reexportsOf(
  exported: readonly OutsideAlias[],
  writtenSpecifier: (specifier: string) => string,
): readonly Declaration[] {
  const specifiers = [...new Set(exported.map(({ specifier }) => specifier))];
  return specifiers.map((specifier) => ({
    kind: "reexport",
    specifier: writtenSpecifier(specifier),
    isType: true,
    names: exported
      .filter((type) => type.specifier === specifier)
      .map(({ name, names: [exportName = ""] }) => ({
        name: exportName,
        as: name,
        owners: [aliasKey(name)],
      })),
  }));
}

function aliasOf(type: OutsideAlias, imports: ReadonlyMap<string, Import>): Declaration {
  const { name, names, isOfValue, parameters, parameterNames } = type;
  const [exportName = "", ...inner] = names;
  const typeArguments = parameterNames.length > 0 ? `<${parameterNames.join(", ")}>` : "";
  const path = [imports.get(importKey(type))?.local ?? exportName, ...inner].join(".");
  return {
    kind: "type",
    name,
    parameters,
    type: `${isOfValue ? "typeof " : ""}${path}${typeArguments}`,
    owners: [aliasKey(name)],
  };
}

function importKey({ specifier, names: [exportName = ""] }: OutsideAlias): string {
  return `${specifier}\0${exportName}`;
}

/** Returns the imports that aliases need, under local names that no alias has. */
function importsOf(
  types: readonly OutsideAlias[],
  writtenSpecifier: (specifier: string) => string,
): ReadonlyMap<string, Import> {
  const imports = new Map<string, Import>();
  const taken = new Set(types.map(({ name }) => name));
  for (const type of types) {
    const [name = "", ...inner] = type.names;
    if (imports.has(importKey(type)) || (!type.isOfValue && inner.length === 0)) continue;
    const preferredName = name === "default" ? "outside" : name;
    let local = preferredName;
    for (let count = 1; taken.has(local) || RESERVED.has(local) || !isIdentifierName(local); count++)
      local = `outside${asTypeName(isIdentifierName(preferredName) ? preferredName : "Value")}${count === 1 ? "" : count}`;
    taken.add(local);
    imports.set(importKey(type), { specifier: writtenSpecifier(type.specifier), name, local });
  }
  return imports;
}
