import type { OwnType } from "../compiler/own-types.ts";
import type { WrittenMember } from "../compiler/type-names.ts";
import { propertyKey } from "../compiler/type-text.ts";
import { mentionsName } from "../isolation/naming.ts";
import { type Outline, type OutlineMember, promisedKey } from "./outline.ts";
import { Lines, type Rendered } from "./rendered.ts";

/** The target: an interface, and the types that it needs. Imports nothing outside. */
export function renderTarget(
  { outside, target, members, groups, whole, types, imports }: Outline,
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
    const grouped = new Set(groups.flatMap(({ keys }) => keys));
    const rest = values.filter(({ key }) => !grouped.has(key));
    for (const { name, usedIn, keys } of groups) {
      addInterface(
        lines,
        `What ${usedIn === "" ? "this project" : usedIn} uses of ${outside}.`,
        name,
        values.filter(({ key }) => keys.includes(key)),
      );
      lines.add("");
    }
    const heritage = groups.length > 0 ? ` extends ${groups.map(({ name }) => name).join(", ")}` : "";
    addInterface(lines, `What this project uses of ${outside}.`, `${target}${heritage}`, rest);
  }
  for (const type of types) {
    if (values.length > 0 || type !== types[0]) lines.add("");
    addType(lines, type, usersOf(type.name, members, types));
  }
  if (values.length === 0 && types.length === 0) lines.add("export {};");
  return lines.rendered();
}

function addInterface(lines: Lines, doc: string, head: string, members: readonly OutlineMember[]): void {
  lines.add(`/** ${doc} */`);
  if (members.length === 0) {
    lines.add(`export interface ${head} {}`);
    return;
  }
  lines.add(`export interface ${head} {`);
  for (const { key, text, doc: own, member, promised } of members) {
    addMember(lines, { name: member, text, doc: own }, [key]);
    if (!promised) continue;
    const beside = `${propertyKey(promised.member)}${promised.text}`;
    const same = `The same as \`${member}\`, as a promise.`;
    addMember(lines, { name: promised.member, text: beside, doc: same }, [promisedKey(key)]);
  }
  lines.add("}");
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
        .filter((each) => each.name === type || mentionsName(text, each.name))
        .map((each) => each.name);
      return roots.some((root) => needed(root, new Set()).has(name));
    })
    .map(({ key }) => key);
}
