import type { Language } from "../../isolation/file-language.ts";
import { accessText, isWord, RESERVED } from "../../isolation/naming.ts";
import type { CopiedType } from "../../types/copied-types.ts";
import { camelCase, propertyKey } from "../../types/type-text.ts";
import { stringLiteral, writtenText } from "../../written-text.ts";
import { callbackResultKey, exportChoice, type Outline, type OutlineMember } from "../outline/model.ts";
import type { Reexport } from "../outline/reexports.ts";
import { type AdapterSyntax, syntaxOf } from "./adapter-syntax.ts";
import { ImportNames } from "./import-names.ts";
import { type RenderedSource, SourceBuilder } from "./source-builder.ts";

export interface AdapterPlace {
  readonly language: Language;
  /** Specifier of the target. */
  readonly target: string;
  /** Returns the specifier of a module in the adapter's file. */
  readonly written: (specifier: string) => string;
}

/** Writes the adapter: the only importer of the outside module. */
export function renderAdapter(outline: Outline, place: AdapterPlace): RenderedSource {
  const { outside, target, object, members, types, reexports, reexportsAll, touched, isItself } = outline;
  const { written } = place;
  const syntax = syntaxOf(place.language);
  const lines = new SourceBuilder();
  const values = members.filter(({ form }) => form !== "type");
  const names = new ImportNames(outline);
  const add = (all: readonly string[], keys: readonly string[] = []) => {
    for (const item of all) lines.add(item, keys);
  };
  const opening = syntax.opening(values.length > 0);
  add(opening);
  if (opening.length > 0) lines.add("");
  for (const site of names.imports)
    add(syntax.importOf({ ...site, specifier: written(site.specifier) }), site.keys.map(exportChoice));
  if (values.length > 0) {
    const hasOwn = members.some(
      ({ form, type, reexportedAs }) => form !== "type" && type !== undefined && reexportedAs !== undefined,
    );
    add(syntax.importTypes([target], hasOwn, place.target));
  }
  const imported = new Set([
    ...names.imports.map(({ specifier }) => specifier),
    ...reexports.filter(({ isType }) => !isType).map(({ specifier }) => specifier),
    reexportsAll,
  ]);
  for (const file of touched) if (!imported.has(file)) add(syntax.touch(written(file)));
  if (reexportsAll !== undefined) {
    if (!lines.endsBlank) lines.add("");
    add(syntax.reexportAll(written(reexportsAll), isItself));
  }
  if (reexports.length > 0) {
    if (!lines.endsBlank) lines.add("");
    lines.add("// Re-exported, because it cannot be drafted.");
    for (const { text, keys } of reexportLines(reexports, syntax, written)) add(text, keys);
  }
  const doc = `The only file that imports ${writtenText(outside, "block comment")}.`;
  const [sole] = values;
  if (sole) {
    if (!lines.endsBlank) lines.add("");
    const before = syntax.object(doc, object, target, place.target);
    add(before.slice(0, -1));
    const start = before.at(-1) ?? "";
    const asserted = (value: string, { isAsserted }: OutlineMember, type: string) =>
      isAsserted ? `${value} as ${type}` : value;
    if (sole.form === "whole")
      lines.add(`${start}${asserted(names.of(sole), sole, target)};`, [exportChoice(sole.key)]);
    else {
      lines.add(`${start}{`);
      for (const value of values) {
        const typeOf = (member: string) => `${target}[${stringLiteral(member)}]`;
        const add = ({ member }: { readonly member: string }, text: string) =>
          lines.add(`  ${propertied(member, asserted(text, value, typeOf(member)))},`, [
            exportChoice(value.key),
          ]);
        add(value, entry(value, names, place.language));
        if (value.factory) add(value.factory, made(value, value.factory, names.of(value), place.language));
        if (value.callbackResult)
          lines.add(promiseEntry(value, value.callbackResult, names), [
            exportChoice(callbackResultKey(value.key)),
          ]);
      }
      lines.add("};");
    }
    add(syntax.afterObject(object));
  }
  addReexports(lines, outline, types, syntax, place.target);
  return lines.build();
}

/** `lift`, or `lift: crane.lift`. */
function propertied(member: string, value: string): string {
  const key = propertyKey(member);
  return key === value ? key : `${key}: ${value}`;
}

function entry(outlineMember: OutlineMember, names: ImportNames, language: Language): string {
  const value = names.of(outlineMember);
  return outlineMember.form === "factory" ? made(outlineMember, outlineMember, value, language) : value;
}

/** Writes a factory: a function that constructs. */
function made(
  { takesInstances, isAsserted }: OutlineMember,
  { parameters }: { readonly parameters: readonly string[] | undefined },
  value: string,
  language: Language,
): string {
  const list = parameters?.join(", ") ?? "...given";
  // The instances that are passed in are the module's own, whatever part of them the target declares.
  const isTyped = (takesInstances || isAsserted) && language === "typescript";
  const text = isTyped
    ? `(...given: ConstructorParameters<typeof ${value}>) => new ${value}(...given)`
    : `(${list}) => new ${value}(${list})`;
  return isAsserted ? `(${text})` : text;
}

/** Writes the call of a function with a callback as a promise. */
function promiseEntry(
  outlineMember: OutlineMember,
  { member, parameters, value }: NonNullable<OutlineMember["callbackResult"]>,
  names: ImportNames,
): string {
  const callback = `(error${value === undefined ? "" : `, ${value}`}) => (error ? reject(error) : resolve(${value ?? ""}))`;
  return [
    `  ${propertyKey(member)}: (${parameters.join(", ")}) =>`,
    "    new Promise((resolve, reject) => {",
    `      ${names.of(outlineMember)}(${[...parameters, callback].join(", ")});`,
    "    }),",
  ].join("\n");
}

/** One statement for the values and one for the types of each module. */
function reexportLines(
  passedOn: readonly Reexport[],
  syntax: AdapterSyntax,
  written: (specifier: string) => string,
): readonly { readonly text: readonly string[]; readonly keys: readonly string[] }[] {
  const statements = new Map<string, Reexport[]>();
  for (const reexport of passedOn) {
    const start = `${reexport.isType}\0${reexport.specifier}`;
    statements.set(start, [...(statements.get(start) ?? []), reexport]);
  }
  return [...statements.values()].map((all) => {
    const [first] = all as [Reexport];
    return {
      text: syntax.reexport(all, written(first.specifier), first.isType),
      keys: all.map(({ key }) => exportChoice(key)),
    };
  });
}

/** Exports under the names that callers keep. */
function addReexports(
  lines: SourceBuilder,
  { object, members, target: targetName }: Outline,
  types: readonly CopiedType[],
  syntax: AdapterSyntax,
  target: string,
): void {
  const handed = members.filter((member) => member.reexportedAs !== undefined);
  if (handed.length === 0) return;
  lines.add("");
  const parametersOf = (type: string) =>
    types.find((copiedType) => copiedType.name === type)?.parameters ?? "";
  const add = (all: readonly string[], key: string) => {
    for (const item of all) lines.add(item, [exportChoice(key)]);
  };
  for (const { key, form, type, reexportedAs: name } of handed) {
    if (form !== "type" || type === undefined || name === undefined) continue;
    add(syntax.exportType(type, name, parametersOf(type), target), key);
  }
  for (const { key, form, member, type, reexportedAs: name } of handed) {
    if (form === "type" || name === undefined) continue;
    const isNamed = name === "default" || (isWord(name) && !RESERVED.has(name));
    if (name !== object)
      add(
        syntax.exportValue(
          name,
          `${object}${accessText(member)}`,
          isNamed ? undefined : `${camelCase(name)}Handed`,
          member === "" ? targetName : `${targetName}[${stringLiteral(member)}]`,
        ),
        key,
      );
    const own = types.find((copiedType) => copiedType.name === type);
    if (own && name !== "default" && isWord(name))
      add(syntax.exportTypeWithValue(own.name, name, own.parameters, target), key);
  }
}
