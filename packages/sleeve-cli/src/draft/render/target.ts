import { compareText } from "../../place.ts";
import type { CopiedType } from "../../types/copied-types.ts";
import type { WrittenMember } from "../../types/type-names.ts";
import { mentionsName, propertyKey } from "../../types/type-text.ts";
import { stringLiteral, writtenText } from "../../written-text.ts";
import { callbackResultKey, exportChoice, type Outline, type OutlineMember } from "../outline/model.ts";
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
  const types = outline.types.filter(({ rung }) => rung !== "aliased");
  const values = members.filter(({ form }) => form !== "type");
  const [sole] = values;
  if (wholeType !== undefined && sole) {
    lines.add(`/** The parts of ${writtenText(outside, "block comment")} that this project uses. */`);
    lines.add(`export interface ${target} extends ${wholeType} {}`, [exportChoice(sole.key)]);
  } else if (whole && sole) {
    addWhole(lines, outline, whole, exportChoice(sole.key));
  } else if (values.length > 0) {
    const grouped = new Set(groups.flatMap(({ keys }) => keys));
    const rest = values.filter(({ key }) => !grouped.has(key));
    for (const { name, usedIn, keys } of groups) {
      addInterface(
        lines,
        `The parts of ${writtenText(outside, "block comment")} that ${usedIn === "" ? "this project" : usedIn} uses.`,
        name,
        values.filter(({ key }) => keys.includes(key)),
      );
      lines.add("");
    }
    const heritage = groups.length > 0 ? ` extends ${groups.map(({ name }) => name).join(", ")}` : "";
    addInterface(
      lines,
      `The parts of ${writtenText(outside, "block comment")} that this project uses.`,
      `${target}${heritage}`,
      rest,
    );
  }
  for (const type of types) {
    if (values.length > 0 || type !== types[0]) lines.add("");
    addType(lines, type);
  }
  if (values.length === 0) {
    if (!lines.endsBlank) lines.add("");
    lines.add(
      `/** This project uses no values of ${writtenText(outside, "block comment")} that a target can offer. */`,
    );
    lines.add(`export interface ${target} {}`);
  }
  return lines.build();
}

/**
 * Adds a target with the shape of a single export. Calls that accept the module's own instances are written as
 * the type of a method, because the compiler compares the parameters of methods in both directions.
 */
function addWhole(
  lines: SourceBuilder,
  { outside, target }: Outline,
  whole: readonly WrittenMember[],
  choice: string,
): void {
  const calls = whole.filter(({ takesInstances }) => takesInstances === true);
  const rest = whole.filter((part) => !calls.includes(part));
  const heritage = calls.length > 0 ? ` extends ${target}Call` : "";
  lines.add(`/** The parts of ${writtenText(outside, "block comment")} that this project uses. */`);
  lines.add(`export interface ${target}${heritage} {${rest.length === 0 ? "}" : ""}`);
  for (const part of rest) addMember(lines, part, part.key ?? choice, "  ");
  if (rest.length > 0) lines.add("}");
  if (calls.length === 0) return;
  lines.add("");
  lines.add(
    `/** Calls of ${writtenText(outside, "block comment")}, which accept the instances that it creates. */`,
    [choice],
  );
  lines.add(`export type ${target}Call = {`, [choice]);
  for (const { text } of calls) lines.add(`  call${text};`, [choice]);
  lines.add('}["call"];', [choice]);
}

/** Adds the imports of our own types and of outside types, and exports the outside types that callers import. */
function addImports(
  lines: SourceBuilder,
  { members, whole, wholeType, types, imports, aliased }: Outline,
  { specifierOf, outsideTypes }: TargetPlace,
): void {
  const text = [
    ...members.flatMap((member) => [
      member.text,
      member.callbackResult?.text ?? "",
      member.factory?.text ?? "",
    ]),
    ...(whole ?? []).map((member) => member.text),
    wholeType ?? "",
    ...types.flatMap((type) => [
      type.parameters,
      type.text,
      ...(type.members ?? []).map((member) => member.text),
    ]),
  ].join("\n");
  const sources = new Map<string, string[]>();
  const add = (specifier: string, name: string, local: string) => {
    const word = name === local ? name : `${name} as ${local}`;
    if (mentionsName(text, local)) sources.set(specifier, [...(sources.get(specifier) ?? []), word]);
  };
  for (const { name, local, from } of imports)
    add("path" in from ? specifierOf(from.path) : from.specifier, name, local);
  for (const { name } of aliased) add(outsideTypes, name, name);
  const list = (names: readonly string[]) => [...new Set(names)].sort(compareText).join(", ");
  for (const [specifier, names] of [...sources].sort(([left], [right]) => compareText(left, right)))
    lines.add(`import type { ${list(names)} } from ${stringLiteral(specifier)};`);
  if (sources.size > 0) lines.add("");
  const imported = types.filter(
    ({ name, rung }) => rung === "aliased" && members.some(({ type }) => type === name),
  );
  if (imported.length === 0) return;
  lines.add(`export type { ${list(imported.map(({ name }) => name))} } from ${stringLiteral(outsideTypes)};`);
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
  for (const { key, text, parts, doc: own, member, factory, callbackResult } of members) {
    const choice = exportChoice(key);
    if (parts.length > 0) {
      const calls = parts.filter(({ takesInstances }) => takesInstances === true);
      const rest = parts.filter((part) => !calls.includes(part));
      addDoc(lines, own, choice, "  ");
      lines.add(`  readonly ${propertyKey(member)}: {`, [choice]);
      for (const call of calls) lines.add(`    call${call.text};`, [choice]);
      if (calls.length > 0) lines.add('  }["call"] & {', [choice]);
      for (const part of rest) addMember(lines, part, part.key ?? choice, "    ");
      lines.add("  };", [choice]);
    } else addMember(lines, { text, doc: own }, choice, "  ");
    if (factory)
      addMember(
        lines,
        { text: `${propertyKey(factory.member)}${factory.text}`, doc: undefined },
        choice,
        "  ",
      );
    if (!callbackResult) continue;
    const beside = `${propertyKey(callbackResult.member)}${callbackResult.text}`;
    const same = `The same as \`${member}\`, as a promise.`;
    const promise = { text: beside, doc: same };
    addMember(lines, promise, exportChoice(callbackResultKey(key)), "  ");
  }
  lines.add("}");
}

function addDoc(lines: SourceBuilder, doc: string | undefined, choice: string, indent: string): void {
  if (doc !== undefined) lines.add(`${indent}/** ${doc} */`, [choice]);
}

function addMember(
  lines: SourceBuilder,
  { text, doc }: Pick<WrittenMember, "text" | "doc">,
  choice: string,
  indent: string,
): void {
  addDoc(lines, doc, choice, indent);
  for (const line of text.split("\n")) lines.add(`${indent}${line.replace(/;$/, "")};`, [choice]);
}

function addType(
  lines: SourceBuilder,
  { name, key, rung, parameters, bases, doc, members, text }: CopiedType,
): void {
  addDoc(lines, doc, key, "");
  const add = (line: string) => lines.add(line, [key]);
  if (rung === "opaque" && doc === undefined) add("/** Opaque: passed around, never inspected. */");
  if (!members) add(`export type ${name}${parameters} = ${text};`);
  else if (members.length === 0 && (bases.length === 0 || bases.join() === "Error"))
    add(`export type ${name}${parameters} = ${bases[0] ?? "object"};`);
  else if (members.every(({ takesInstances }) => takesInstances === true) && bases.length === 0) {
    // Parameters of methods are compared in both directions, so a reduced type can be passed back in.
    add(`export type ${name}${parameters} = {`);
    for (const member of members)
      addMember(lines, { ...member, text: `call${member.text}` }, member.key ?? key, "  ");
    add('}["call"];');
  } else {
    add(`export interface ${name}${parameters}${bases.length > 0 ? ` extends ${bases.join(", ")}` : ""} {`);
    for (const member of members) addMember(lines, member, member.key ?? key, "  ");
    add("}");
  }
}

/** Returns the exports that need a type, directly or through other types. */
export function usersOf(name: string, { members, whole, types }: Outline): readonly string[] {
  const needed = (from: string, seen: Set<string>): Set<string> => {
    if (seen.has(from)) return seen;
    seen.add(from);
    for (const name of types.find((type) => type.name === from)?.mentions ?? []) needed(name, seen);
    return seen;
  };
  return members
    .filter(({ form, text, type }) => {
      const texts = form === "whole" ? (whole ?? []).map((part) => part.text) : [text];
      const roots = types
        .filter(
          (copiedType) =>
            copiedType.name === type || texts.some((source) => mentionsName(source, copiedType.name)),
        )
        .map((type) => type.name);
      return (
        texts.some((source) => mentionsName(source, name)) ||
        roots.some((root) => needed(root, new Set()).has(name))
      );
    })
    .map(({ key }) => key);
}
