import type { OwnType } from "../compiler/own-types.ts";
import { propertyKey } from "../compiler/type-text.ts";
import type { Language } from "../isolation/language.ts";
import { accessText, camelCase, isWord, RESERVED } from "../isolation/naming.ts";
import { type AdapterSyntax, syntaxOf } from "./adapter-syntax.ts";
import { ImportNames } from "./import-names.ts";
import { type Outline, type OutlineMember, type PassedOn, promisedKey } from "./outline.ts";
import { Lines, type Rendered } from "./rendered.ts";

export interface AdapterPlace {
  readonly language: Language;
  /** The specifier of the target. */
  readonly target: string;
  /** How a module is named in the adapter's file. */
  readonly written: (specifier: string) => string;
}

/** The adapter: the only importer of the outside module. */
export function renderAdapter(outline: Outline, place: AdapterPlace): Rendered {
  const { outside, target, object, members, types, passedOn, handsAll, touched, isItself } = outline;
  const { written } = place;
  const syntax = syntaxOf(place.language);
  const lines = new Lines();
  const values = members.filter(({ form }) => form !== "type");
  const names = new ImportNames(outline);
  const add = (all: readonly string[], keys: readonly string[] = []) => {
    for (const each of all) lines.add(each, keys);
  };
  const opening = syntax.opening(values.length > 0);
  add(opening);
  if (opening.length > 0) lines.add("");
  for (const each of names.imports)
    add(syntax.importOf({ ...each, specifier: written(each.specifier) }), each.keys);
  if (values.length > 0) {
    const hasOwn = members.some(
      ({ form, type, handed }) => form !== "type" && type !== undefined && handed !== undefined,
    );
    add(syntax.importTypes([target], hasOwn, place.target));
  }
  const imported = new Set([
    ...names.imports.map(({ specifier }) => specifier),
    ...passedOn.filter(({ isType }) => !isType).map(({ specifier }) => specifier),
    handsAll,
  ]);
  for (const each of touched) if (!imported.has(each)) add(syntax.touch(written(each)));
  if (handsAll !== undefined) {
    if (!lines.endsBlank) lines.add("");
    add(syntax.handAll(written(handsAll), isItself));
  }
  if (passedOn.length > 0) {
    if (!lines.endsBlank) lines.add("");
    lines.add("// What cannot be drafted, and is handed on as it is.");
    for (const { text, keys } of handedOn(passedOn, syntax, written)) add(text, keys);
  }
  const doc = `The only importer of ${outside}.`;
  const [sole] = values;
  if (sole) {
    if (!lines.endsBlank) lines.add("");
    const before = syntax.object(doc, object, target, place.target);
    add(before.slice(0, -1));
    const start = before.at(-1) ?? "";
    if (sole.form === "whole") lines.add(`${start}${names.of(sole)};`, [sole.key]);
    else {
      lines.add(`${start}{`);
      for (const each of values) {
        lines.add(`  ${entry(each, names)},`, [each.key]);
        if (each.promised) lines.add(promiseEntry(each, each.promised, names), [promisedKey(each.key)]);
      }
      lines.add("};");
    }
    add(syntax.afterObject(object));
  }
  addHanded(lines, outline, types, syntax, place.target);
  return lines.rendered();
}

function entry(each: OutlineMember, names: ImportNames): string {
  const { form, member, parameters } = each;
  const value = names.of(each);
  const key = propertyKey(member);
  if (form === "factory") {
    const list = parameters?.join(", ") ?? "...given";
    return `${key}: (${list}) => new ${value}(${list})`;
  }
  return key === value ? key : `${key}: ${value}`;
}

/** The call of a function that calls back, as a promise. */
function promiseEntry(
  each: OutlineMember,
  { member, parameters, value }: NonNullable<OutlineMember["promised"]>,
  names: ImportNames,
): string {
  const callback = `(error${value === undefined ? "" : `, ${value}`}) => (error ? reject(error) : resolve(${value ?? ""}))`;
  return [
    `  ${propertyKey(member)}: (${parameters.join(", ")}) =>`,
    "    new Promise((resolve, reject) => {",
    `      ${names.of(each)}(${[...parameters, callback].join(", ")});`,
    "    }),",
  ].join("\n");
}

/** One statement for the values, and one for the types, of each module. */
function handedOn(
  passedOn: readonly PassedOn[],
  syntax: AdapterSyntax,
  written: (specifier: string) => string,
): readonly { readonly text: readonly string[]; readonly keys: readonly string[] }[] {
  const statements = new Map<string, PassedOn[]>();
  for (const each of passedOn) {
    const start = `${each.isType}\0${each.specifier}`;
    statements.set(start, [...(statements.get(start) ?? []), each]);
  }
  return [...statements.values()].map((all) => {
    const [first] = all as [PassedOn];
    return {
      text: syntax.handOn(all, written(first.specifier), first.isType),
      keys: all.map(({ key }) => key),
    };
  });
}

/** Exports under the names that callers keep. */
function addHanded(
  lines: Lines,
  { object, members }: Outline,
  types: readonly OwnType[],
  syntax: AdapterSyntax,
  target: string,
): void {
  const handed = members.filter((each) => each.handed !== undefined);
  if (handed.length === 0) return;
  lines.add("");
  const parametersOf = (type: string) => types.find((each) => each.name === type)?.parameters ?? "";
  const add = (all: readonly string[], key: string) => {
    for (const each of all) lines.add(each, [key]);
  };
  for (const { key, form, type, handed: name } of handed) {
    if (form !== "type" || type === undefined || name === undefined) continue;
    add(syntax.handType(type, name, parametersOf(type), target), key);
  }
  for (const { key, form, member, type, handed: name } of handed) {
    if (form === "type" || name === undefined) continue;
    const isNamed = name === "default" || (isWord(name) && !RESERVED.has(name));
    if (name !== object)
      add(
        syntax.hand(name, `${object}${accessText(member)}`, isNamed ? undefined : `${camelCase(name)}Handed`),
        key,
      );
    const own = types.find((each) => each.name === type);
    if (own && name !== "default" && isWord(name))
      add(syntax.handTypeBeside(own.name, name, own.parameters, target), key);
  }
}
