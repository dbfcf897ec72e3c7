import type { OwnType } from "../compiler/own-types.ts";
import type { WrittenMember } from "../compiler/type-names.ts";
import { propertyKey } from "../compiler/type-text.ts";
import { accessText, camelCase, isWord, RESERVED, valueName, writtenName } from "../isolation/naming.ts";
import { inStyle, type Style } from "../isolation/style.ts";
import { type Outline, type OutlineMember, type PassedOn, promisedKey } from "./outline.ts";

/** Source that is drafted, and which export each of its lines is there for. */
export interface Rendered {
  readonly text: string;
  /** By line, counted from 0. */
  readonly keys: ReadonlyMap<number, readonly string[]>;
}

/** Collects lines, and whom they serve. */
class Lines {
  readonly #lines: string[] = [];
  readonly #keys = new Map<number, readonly string[]>();

  add(text: string, keys: readonly string[] = []): void {
    for (const line of text.split("\n")) {
      if (keys.length > 0) this.#keys.set(this.#lines.length, keys);
      this.#lines.push(line);
    }
  }

  get isEmpty(): boolean {
    return this.#lines.length === 0;
  }

  rendered(): Rendered {
    return { text: `${this.#lines.join("\n").replace(/\n+$/, "")}\n`, keys: this.#keys };
  }
}

/** The same source in a project's style; lines that it breaks serve whom they served. */
export function styled({ text, keys }: Rendered, style: Style): Rendered {
  const lines: string[] = [];
  const moved = new Map<number, readonly string[]>();
  text.split("\n").forEach((line, index) => {
    for (const each of inStyle(line, style).split(style.endOfLine)) {
      const own = keys.get(index);
      if (own) moved.set(lines.length, own);
      lines.push(each);
    }
  });
  return { text: lines.join(style.endOfLine), keys: moved };
}

/** The target: an interface, and the types that it needs. Imports nothing outside. */
export function renderTarget(
  { outside, target, members, whole, types, imports }: Outline,
  specifierOf: (path: string) => string,
): Rendered {
  const lines = new Lines();
  const sources = new Map<string, string[]>();
  for (const { name, from } of imports) {
    const specifier = "path" in from ? specifierOf(from.path) : from.specifier;
    sources.set(specifier, [...(sources.get(specifier) ?? []), name]);
  }
  for (const [specifier, names] of [...sources].sort())
    lines.add(`import type { ${[...new Set(names)].sort().join(", ")} } from ${JSON.stringify(specifier)};`);
  if (sources.size > 0) lines.add("");
  const values = members.filter(({ form }) => form !== "type");
  const [sole] = values;
  if (whole && sole) {
    lines.add(`/** What this project uses of ${outside}. */`);
    lines.add(`export interface ${target} {`);
    for (const each of whole) addMember(lines, each, [sole.key]);
    lines.add("}");
  } else if (values.length > 0) {
    lines.add(`/** What this project uses of ${outside}. */`);
    lines.add(`export interface ${target} {`);
    for (const { key, text, doc, member, promised } of values) {
      addMember(lines, { name: member, text, doc }, [key]);
      if (!promised) continue;
      const own = `${propertyKey(promised.member)}${promised.text}`;
      const same = `The same as \`${member}\`, as a promise.`;
      addMember(lines, { name: promised.member, text: own, doc: same }, [promisedKey(key)]);
    }
    lines.add("}");
  }
  for (const type of types) {
    if (values.length > 0 || type !== types[0]) lines.add("");
    addType(lines, type, usersOf(type.name, members, types));
  }
  if (values.length === 0 && types.length === 0) lines.add("export {};");
  return lines.rendered();
}

function addMember(lines: Lines, { text, doc }: WrittenMember, keys: readonly string[]): void {
  if (doc !== undefined) lines.add(`  /** ${doc} */`, keys);
  for (const line of text.split("\n")) lines.add(`  ${line.replace(/;$/, "")};`, keys);
}

function addType(
  lines: Lines,
  { name, parameters, isError, doc, members, text }: OwnType,
  keys: readonly string[],
): void {
  if (doc !== undefined) lines.add(`/** ${doc} */`, keys);
  if (!members) {
    lines.add(`export type ${name}${parameters} = ${text};`, keys);
    return;
  }
  if (members.length === 0 && !isError) {
    if (doc === undefined) lines.add("/** Handed about as it is: nothing of it is used here. */", keys);
    lines.add(`export type ${name}${parameters} = object;`, keys);
    return;
  }
  const heritage = isError ? " extends Error" : "";
  if (members.length === 0) {
    lines.add(`export type ${name}${parameters} = Error;`, keys);
    return;
  }
  lines.add(`export interface ${name}${parameters}${heritage} {`, keys);
  for (const each of members) addMember(lines, each, keys);
  lines.add("}", keys);
}

/** The exports for which a type is there, itself or through others. */
export function usersOf(
  name: string,
  members: readonly OutlineMember[],
  types: readonly OwnType[],
): readonly string[] {
  const needed = (from: string, seen: Set<string>): Set<string> => {
    if (seen.has(from)) return seen;
    seen.add(from);
    for (const each of types.find((type) => type.name === from)?.mentions ?? []) needed(each, seen);
    return seen;
  };
  return members
    .filter(({ text, type }) => {
      const roots = types
        .filter((each) => each.name === type || mentions(text, each.name))
        .map((each) => each.name);
      return roots.some((root) => needed(root, new Set()).has(name));
    })
    .map(({ key }) => key);
}

function mentions(text: string, name: string): boolean {
  return new RegExp(`(?<![\\w$.])${name.replaceAll("$", "\\$")}(?![\\w$])`).test(text);
}

/** The adapter: the only importer of the outside module. */
export function renderAdapter(
  outline: Outline,
  targetSpecifier: string,
  written: (specifier: string) => string,
): Rendered {
  const { outside, target, object, members, types, passedOn, handsAll } = outline;
  const lines = new Lines();
  const values = members.filter(({ form }) => form !== "type");
  const names = new ImportNames(outline, written);
  for (const line of names.lines()) lines.add(line.text, line.keys);
  if (values.length > 0) {
    const handedTypes = members.some(
      ({ form, type, handed }) => form !== "type" && type !== undefined && handed !== undefined,
    );
    if (handedTypes) lines.add(`import type * as own from ${JSON.stringify(targetSpecifier)};`);
    lines.add(`import type { ${target} } from ${JSON.stringify(targetSpecifier)};`);
  }
  if (handsAll) lines.add(`${lines.isEmpty ? "" : "\n"}export * from ${JSON.stringify(written(outside))};`);
  if (passedOn.length > 0) {
    if (!lines.isEmpty) lines.add("");
    lines.add("// What cannot be drafted, and is handed on as it is.");
    for (const { text, keys } of handedOn(passedOn, written)) lines.add(text, keys);
  }
  const [sole] = values;
  if (sole?.form === "whole") {
    lines.add(`\n/** The only importer of ${outside}. */`);
    lines.add(`export const ${object}: ${target} = ${names.of(sole)};`, [sole.key]);
  } else if (values.length > 0) {
    lines.add(`\n/** The only importer of ${outside}. */`);
    lines.add(`export const ${object}: ${target} = {`);
    for (const each of values) {
      lines.add(`  ${entry(each, names)},`, [each.key]);
      if (each.promised) lines.add(promiseEntry(each, each.promised, names), [promisedKey(each.key)]);
    }
    lines.add("};");
  }
  addHanded(lines, outline, types, targetSpecifier);
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
  written: (specifier: string) => string,
): readonly { readonly text: string; readonly keys: readonly string[] }[] {
  const statements = new Map<string, PassedOn[]>();
  for (const each of passedOn) {
    const start = `export ${each.isType ? "type " : ""}\0${each.specifier}`;
    statements.set(start, [...(statements.get(start) ?? []), each]);
  }
  return [...statements].map(([start, all]) => {
    const [words = "", specifier = ""] = start.split("\0");
    const names = all.map(({ export: name, handed }) =>
      name === handed ? writtenName(name) : `${writtenName(name)} as ${writtenName(handed)}`,
    );
    return {
      text: `${words}{ ${names.join(", ")} } from ${JSON.stringify(written(specifier))};`,
      keys: all.map(({ key }) => key),
    };
  });
}

/** Exports under the names that callers keep. */
function addHanded(
  lines: Lines,
  { object, members }: Outline,
  types: readonly OwnType[],
  targetSpecifier: string,
): void {
  const handed = members.filter((each) => each.handed !== undefined);
  if (handed.length === 0) return;
  const alone = handed.filter(({ form, type }) => form === "type" && type !== undefined);
  lines.add("");
  for (const { key, type, handed: name } of alone) {
    const words = type === name ? type : `${type} as ${writtenName(name ?? "")}`;
    lines.add(`export type { ${words} } from ${JSON.stringify(targetSpecifier)};`, [key]);
  }
  for (const { key, form, member, type, handed: name } of handed) {
    if (form === "type" || name === undefined) continue;
    const value = `${object}${accessText(member)}`;
    const own = types.find((each) => each.name === type);
    if (name === "default") lines.add(`export default ${value};`, [key]);
    else if (RESERVED.has(name) || !isWord(name)) {
      const local = `${camelCase(name)}Handed`;
      lines.add(`const ${local} = ${value};\nexport { ${local} as ${writtenName(name)} };`, [key]);
    } else if (name !== object) lines.add(`export const ${name} = ${value};`, [key]);
    if (own && name !== "default" && isWord(name)) {
      const inner = [...own.parameters.matchAll(/[<,]\s*(?:const )?([\w$]+)(?=[ ,>])/g)]
        .map(([, each]) => each)
        .join(", ");
      lines.add(
        `export type ${name}${own.parameters} = own.${own.name}${inner === "" ? "" : `<${inner}>`};`,
        [key],
      );
    }
  }
}

/** What the adapter's module calls the outside exports, and how it imports them. */
class ImportNames {
  readonly #byKey = new Map<string, string>();
  readonly #lines: { readonly text: string; readonly keys: readonly string[] }[] = [];

  constructor({ members, object, outside }: Outline, written: (specifier: string) => string) {
    const values = members.filter(({ form }) => form !== "type");
    const exported = new Set([object, ...members.flatMap(({ handed }) => handed ?? [])]);
    const taken = new Set(exported);
    const specifiers = [...new Set(values.map(({ specifier }) => specifier))].sort();
    for (const specifier of specifiers) {
      const own = values.filter((each) => each.specifier === specifier);
      const standard = own.find((each) => each.export === "default");
      const named = own.filter((each) => each !== standard);
      const direct = named.filter((each) => each.isImportedByName && isFree(each.export, taken));
      for (const each of direct) taken.add(each.export);
      const rest = named.filter((each) => !direct.includes(each));
      const parts: string[] = [];
      if (standard) {
        const wanted = standard.member || valueName(specifier);
        const name = isFree(wanted, taken) ? wanted : free(`outside${capitalised(wanted)}`, taken);
        taken.add(name);
        this.#byKey.set(standard.key, name);
        parts.push(name);
      }
      for (const each of direct) this.#byKey.set(each.key, each.export);
      const from = `from ${JSON.stringify(written(specifier))};`;
      const keys = own.map(({ key }) => key);
      const list = direct.map((each) => each.export);
      if (rest.length > 0) {
        const namespace = free(
          specifier === outside ? "outside" : `outside${capitalised(valueName(specifier))}`,
          taken,
        );
        taken.add(namespace);
        for (const each of rest) this.#byKey.set(each.key, `${namespace}${accessText(each.export)}`);
        // An import cannot name the whole and some of it at once.
        this.#lines.push({
          text: `import ${[...(list.length > 0 ? [] : parts), `* as ${namespace}`].join(", ")} ${from}`,
          keys,
        });
        if (list.length > 0)
          this.#lines.push({
            text: `import ${[...parts, `{ ${list.join(", ")} }`].join(", ")} ${from}`,
            keys,
          });
      } else {
        const whole = [...parts, ...(list.length > 0 ? [`{ ${list.join(", ")} }`] : [])].join(", ");
        this.#lines.push({ text: `import ${whole} ${from}`, keys });
      }
    }
  }

  of({ key }: Pick<OutlineMember, "key">): string {
    return this.#byKey.get(key) ?? "undefined";
  }

  lines(): readonly { readonly text: string; readonly keys: readonly string[] }[] {
    return this.#lines;
  }
}

function isFree(name: string, taken: ReadonlySet<string>): boolean {
  return !taken.has(name) && !RESERVED.has(name) && isWord(name);
}

function free(name: string, taken: ReadonlySet<string>): string {
  for (let count = 1; ; count++) {
    const candidate = count === 1 ? name : `${name}${count}`;
    if (isFree(candidate, taken)) return candidate;
  }
}

function capitalised(text: string): string {
  return `${text.charAt(0).toUpperCase()}${text.slice(1)}`;
}
