import { type Code, owned } from "../../emit/code.ts";
import type { Declaration, Import, InterfaceDeclaration, Member, Module } from "../../emit/module.ts";
import type { CopiedType } from "../../types/copied-types.ts";
import type { WrittenMember } from "../../types/writing/type-names.ts";
import { mentionsName, propertyKey } from "../../types/writing/type-text.ts";
import { writtenText } from "../../written-text.ts";
import { callbackResultKey, exportChoice, type Outline, type OutlineMember } from "../outline/model.ts";

export interface TargetPlace {
  /** Returns the specifier of one of our files in the target's file. */
  readonly specifierOf: (path: string) => string;
  /** Specifier of the file with the outside types. */
  readonly outsideTypes: string;
}

/** Returns the file of the target: an interface and the types it needs. It imports nothing from outside. */
export function targetModule(outline: Outline, place: TargetPlace): Module {
  const types = outline.types.filter(({ form }) => form !== "aliased").map(typeDeclaration);
  return {
    imports: importsOf(outline, place),
    declarations: [
      ...reexportedTypes(outline, place),
      ...(hasValues(outline) ? [...targetDeclarations(outline), ...types] : [...types, emptyTarget(outline)]),
    ],
  };
}

function hasValues({ members }: Outline): boolean {
  return members.some(({ form }) => form !== "type");
}

function emptyTarget({ outside, target }: Outline): InterfaceDeclaration {
  return {
    kind: "interface",
    name: target,
    doc: `This project uses no values of ${writtenText(outside, "block comment")} that a target can offer.`,
    members: [],
  };
}

function importsOf(
  { imports, aliased }: Outline,
  { specifierOf, outsideTypes }: TargetPlace,
): readonly Import[] {
  return [
    ...imports.map(({ name, local, from }) => ({
      name,
      local,
      specifier: "path" in from ? specifierOf(from.path) : from.specifier,
    })),
    ...aliased.map(({ name }) => ({ name, local: name, specifier: outsideTypes })),
  ];
}

/** Exports the outside types that callers import. */
function reexportedTypes({ members, types }: Outline, { outsideTypes }: TargetPlace): readonly Declaration[] {
  const names = types
    .filter(({ name, form }) => form === "aliased" && members.some(({ type }) => type === name))
    .map(({ name }) => ({ name, as: name }));
  return names.length === 0 ? [] : [{ kind: "reexport", specifier: outsideTypes, names, isType: true }];
}

function targetDeclarations(outline: Outline): readonly Declaration[] {
  const { outside, target, members, groups, whole, wholeType } = outline;
  const values = members.filter(({ form }) => form !== "type");
  const [soleValue] = values;
  const usedBy = (user: string) => `The parts of ${writtenText(outside, "block comment")} that ${user} uses.`;
  if (wholeType !== undefined && soleValue)
    return [
      {
        kind: "interface",
        name: target,
        bases: [wholeType],
        doc: usedBy("this project"),
        owners: [exportChoice(soleValue.key)],
        members: [],
      },
    ];
  if (whole && soleValue)
    return wholeDeclarations(outline, whole, exportChoice(soleValue.key), usedBy("this project"));
  const grouped = new Set(groups.flatMap(({ keys }) => keys));
  return [
    ...groups.map(({ name, usedIn, keys }) =>
      interfaceOf(
        name,
        [],
        usedBy(usedIn === "" ? "this project" : usedIn),
        values.filter(({ key }) => keys.includes(key)),
      ),
    ),
    interfaceOf(
      target,
      groups.map(({ name }) => name),
      usedBy("this project"),
      values.filter(({ key }) => !grouped.has(key)),
    ),
  ];
}

/**
 * Returns a target with the shape of a single export. Calls that accept the module's own instances are written as
 * the type of a method, because the compiler compares the parameters of methods in both directions.
 */
function wholeDeclarations(
  { outside, target }: Outline,
  whole: readonly WrittenMember[],
  choice: string,
  doc: string,
): readonly Declaration[] {
  const calls = whole.filter(({ takesInstances }) => takesInstances === true);
  const others = whole.filter((part) => !calls.includes(part));
  const interfaceDeclaration: Declaration = {
    kind: "interface",
    name: target,
    bases: calls.length > 0 ? [`${target}Call`] : [],
    doc,
    members: others.map((part) => memberOf(part, part.key ?? choice)),
  };
  if (calls.length === 0) return [interfaceDeclaration];
  return [
    interfaceDeclaration,
    {
      kind: "type",
      name: `${target}Call`,
      doc: `Calls of ${writtenText(outside, "block comment")}, which accept the instances that it creates.`,
      owners: [choice],
      type: methodType(calls, choice),
    },
  ];
}

/** Returns the type of a method with some signatures. */
function methodType(calls: readonly WrittenMember[], choice: string): Code {
  return ["{\n", calls.map(({ text, key }) => owned([key ?? choice], `call${text};\n`)), '}["call"]'];
}

function interfaceOf(
  name: string,
  bases: readonly string[],
  doc: string,
  members: readonly OutlineMember[],
): InterfaceDeclaration {
  return { kind: "interface", name, bases, doc, members: members.flatMap(membersFor) };
}

/** Returns the members of the target for an export: its value, a factory, and a form that returns a promise. */
function membersFor({
  key,
  text,
  parts,
  doc,
  member,
  factory,
  callbackResult,
}: OutlineMember): readonly Member[] {
  const choice = exportChoice(key);
  return [
    parts.length > 0 ? objectMember(member, parts, doc, choice) : memberOf({ text, doc }, choice),
    ...(factory
      ? [memberOf({ text: `${propertyKey(factory.member)}${factory.text}`, doc: undefined }, choice)]
      : []),
    ...(callbackResult
      ? [
          memberOf(
            {
              text: `${propertyKey(callbackResult.member)}${callbackResult.text}`,
              doc: `The same as \`${member}\`, as a promise.`,
            },
            exportChoice(callbackResultKey(key)),
          ),
        ]
      : []),
  ];
}

/** Returns a member for an object without a type of its own. */
function objectMember(
  member: string,
  parts: readonly WrittenMember[],
  doc: string | undefined,
  choice: string,
): Member {
  const calls = parts.filter(({ takesInstances }) => takesInstances === true);
  const others = parts.filter((part) => !calls.includes(part));
  const code: Code = [
    `readonly ${propertyKey(member)}: `,
    calls.length > 0 ? [methodType(calls, choice), " & "] : "",
    "{\n",
    others.map((part) => [memberCode(part, part.key ?? choice), ";\n"]),
    "}",
  ];
  return { doc, owners: [choice], code };
}

function memberCode({ text, doc }: Pick<WrittenMember, "text" | "doc">, choice: string): Code {
  return owned([choice], `${doc === undefined ? "" : `/** ${doc} */\n`}${text}`);
}

function memberOf({ text, doc }: Pick<WrittenMember, "text" | "doc">, choice: string): Member {
  return { doc, owners: [choice], code: text };
}

function typeDeclaration(type: CopiedType): Declaration {
  const { name, key, form, parameters, bases, members, text } = type;
  const doc = type.doc ?? (form === "opaque" ? "Opaque: passed around, never inspected." : undefined);
  const alias = (aliasedType: Code): Declaration => ({
    kind: "type",
    name,
    parameters,
    doc,
    owners: [key],
    type: aliasedType,
  });
  if (!members) return alias(text);
  if (members.length === 0 && (bases.length === 0 || bases.join() === "Error"))
    return alias(bases[0] ?? "object");
  // Parameters of methods are compared in both directions, so a reduced type can be passed back in.
  if (members.every(({ takesInstances }) => takesInstances === true) && bases.length === 0)
    return alias(methodType(members, key));
  return {
    kind: "interface",
    name,
    parameters,
    bases,
    doc,
    owners: [key],
    members: members.map((member) => memberOf(member, member.key ?? key)),
  };
}

/** Returns the exports that need a type, directly or through other types. */
export function usersOf(name: string, { members, whole, types }: Outline): readonly string[] {
  const needed = (from: string, reached: Set<string>): Set<string> => {
    if (reached.has(from)) return reached;
    reached.add(from);
    for (const mentioned of types.find((type) => type.name === from)?.mentions ?? [])
      needed(mentioned, reached);
    return reached;
  };
  return members
    .filter(({ form, text, type }) => {
      const texts = form === "whole" ? (whole ?? []).map((part) => part.text) : [text];
      const roots = types
        .filter(
          (copiedType) =>
            copiedType.name === type || texts.some((source) => mentionsName(source, copiedType.name)),
        )
        .map((root) => root.name);
      return (
        texts.some((source) => mentionsName(source, name)) ||
        roots.some((root) => needed(root, new Set()).has(name))
      );
    })
    .map(({ key }) => key);
}
