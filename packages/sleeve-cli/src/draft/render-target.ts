import { compareText } from "../place.ts";
import type { CopiedType } from "../types/copied-types.ts";
import type { WrittenMember } from "../types/type-names.ts";
import { mentionsName, propertyKey } from "../types/type-text.ts";
import { callbackResultKey, type Outline, type OutlineMember } from "./outline.ts";
import { type RenderedSource, SourceBuilder } from "./source-builder.ts";

export interface TargetPlace {
  /** Returns the specifier of one of our files in the target's file. */
  readonly specifierOf: (path: string) => string;
  /** Specifier of the file with the outside types. */
  readonly outsideTypes: string;
}

/** Writes the target: an interface and the types it needs. It imports nothing from outside. */
export function renderTarget(outline: Outline, place: TargetPlace): RenderedSource {
  const lines = new SourceBuilder();
  addImports(lines, outline, place);
  const { outside, target, members, groups, whole, wholeType } = outline;
  const types = outline.types.filter(({ rung }) => rung !== "handed on");
  const values = members.filter(({ form }) => form !== "type");
  const [sole] = values;
  if (wholeType !== undefined && sole) {
    lines.add(`/** The parts of ${outside} that this project uses. */`);
    lines.add(`export interface ${target} extends ${wholeType} {}`, [sole.key]);
  } else if (whole && sole) {
    lines.add(`/** The parts of ${outside} that this project uses. */`);
    lines.add(`export interface ${target} {`);
    for (const site of whole) addMember(lines, site, [sole.key]);
    lines.add("}");
  } else if (values.length > 0) {
    const grouped = new Set(groups.flatMap(({ keys }) => keys));
    const rest = values.filter(({ key }) => !grouped.has(key));
    for (const { name, usedIn, keys } of groups) {
      addInterface(
        lines,
        `The parts of ${outside} that ${usedIn === "" ? "this project" : usedIn} uses.`,
        name,
        values.filter(({ key }) => keys.includes(key)),
      );
      lines.add("");
    }
    const heritage = groups.length > 0 ? ` extends ${groups.map(({ name }) => name).join(", ")}` : "";
    addInterface(lines, `The parts of ${outside} that this project uses.`, `${target}${heritage}`, rest);
  }
  for (const type of types) {
    if (values.length > 0 || type !== types[0]) lines.add("");
    addType(lines, type, usersOf(type.name, members, types));
  }
  if (values.length === 0 && outline.types.length === 0) lines.add("export {};");
  return lines.build();
}

/** Adds the imports of our own types and of outside types, and exports the outside types that callers import. */
function addImports(
  lines: SourceBuilder,
  { members, whole, wholeType, types, imports, handedOn }: Outline,
  { specifierOf, outsideTypes }: TargetPlace,
): void {
  const text = [
    ...members.flatMap((member) => [member.text, member.callbackResult?.text ?? ""]),
    ...(whole ?? []).map((member) => member.text),
    wholeType ?? "",
    ...types.flatMap((type) => [
      type.parameters,
      type.text,
      ...(type.members ?? []).map((member) => member.text),
    ]),
  ].join("\n");
  const sources = new Map<string, string[]>();
  const add = (specifier: string, name: string) => {
    if (mentionsName(text, name)) sources.set(specifier, [...(sources.get(specifier) ?? []), name]);
  };
  for (const { name, from } of imports) add("path" in from ? specifierOf(from.path) : from.specifier, name);
  for (const { name } of handedOn) add(outsideTypes, name);
  const list = (names: readonly string[]) => [...new Set(names)].sort(compareText).join(", ");
  for (const [specifier, names] of [...sources].sort(([left], [right]) => compareText(left, right)))
    lines.add(`import type { ${list(names)} } from ${JSON.stringify(specifier)};`);
  if (sources.size > 0) lines.add("");
  const asked = types.filter(
    ({ name, rung }) => rung === "handed on" && members.some(({ type }) => type === name),
  );
  if (asked.length === 0) return;
  lines.add(`export type { ${list(asked.map(({ name }) => name))} } from ${JSON.stringify(outsideTypes)};`);
  lines.add("");
}

function addInterface(
  lines: SourceBuilder,
  doc: string,
  head: string,
  members: readonly OutlineMember[],
): void {
  lines.add(`/** ${doc} */`);
  if (members.length === 0) {
    lines.add(`export interface ${head} {}`);
    return;
  }
  lines.add(`export interface ${head} {`);
  for (const { key, text, doc: own, member, callbackResult } of members) {
    addMember(lines, { name: member, text, doc: own }, [key]);
    if (!callbackResult) continue;
    const beside = `${propertyKey(callbackResult.member)}${callbackResult.text}`;
    const same = `The same as \`${member}\`, as a promise.`;
    addMember(lines, { name: callbackResult.member, text: beside, doc: same }, [callbackResultKey(key)]);
  }
  lines.add("}");
}

function addMember(lines: SourceBuilder, { text, doc }: WrittenMember, keys: readonly string[]): void {
  if (doc !== undefined) lines.add(`  /** ${doc} */`, keys);
  for (const line of text.split("\n")) lines.add(`  ${line.replace(/;$/, "")};`, keys);
}

function addType(
  lines: SourceBuilder,
  { name, parameters, isError, doc, members, text }: CopiedType,
  keys: readonly string[],
): void {
  if (doc !== undefined) lines.add(`/** ${doc} */`, keys);
  if (!members) {
    lines.add(`export type ${name}${parameters} = ${text};`, keys);
    return;
  }
  if (members.length === 0 && !isError) {
    if (doc === undefined) lines.add("/** Opaque: passed around, never inspected. */", keys);
    lines.add(`export type ${name}${parameters} = object;`, keys);
    return;
  }
  const heritage = isError ? " extends Error" : "";
  if (members.length === 0) {
    lines.add(`export type ${name}${parameters} = Error;`, keys);
    return;
  }
  lines.add(`export interface ${name}${parameters}${heritage} {`, keys);
  for (const member of members) addMember(lines, member, keys);
  lines.add("}", keys);
}

/** Returns the exports that need a type, directly or through other types. */
export function usersOf(
  name: string,
  members: readonly OutlineMember[],
  types: readonly CopiedType[],
): readonly string[] {
  const needed = (from: string, seen: Set<string>): Set<string> => {
    if (seen.has(from)) return seen;
    seen.add(from);
    for (const name of types.find((type) => type.name === from)?.mentions ?? []) needed(name, seen);
    return seen;
  };
  return members
    .filter(({ text, type }) => {
      const roots = types
        .filter((copiedType) => copiedType.name === type || mentionsName(text, copiedType.name))
        .map((type) => type.name);
      return roots.some((root) => needed(root, new Set()).has(name));
    })
    .map(({ key }) => key);
}
