import type { CopiedType } from "../../types/copied-types.ts";
import type { Outline, OutlineMember } from "../outline/model.ts";
import { exportChoice } from "../outline/model.ts";

/** A member of a target, or of one of its types, that callers use. */
export interface UsedTargetMember {
  /** `get`, or `Response.status` for a member of a type. */
  readonly name: string;
  /** The choices of the draft that its code belongs to. */
  readonly choices: readonly string[];
  /** Its declarations as source. A member that several types inherit is one member. */
  readonly texts: readonly string[];
}

/** Returns the values that callers import, or the members that they use of them, and the used members of types. */
export function usedTargetMembers(outline: Outline): readonly UsedTargetMember[] {
  const ofTarget = membersOfTarget(outline);
  const exportKeys = new Set(exportedKeys(outline));
  const inTypes = new Map<string, UsedTargetMember>();
  for (const type of outline.types.filter(({ form }) => form === "own"))
    for (const { name, key, text, isUsed } of type.members ?? []) {
      if (!isUsed || key === undefined || exportKeys.has(key)) continue;
      const member = inTypes.get(key);
      inTypes.set(key, {
        name: member?.name ?? `${type.name}.${name}`,
        choices: [...(member?.choices ?? [key]), type.key],
        texts: [...(member?.texts ?? []), text, ...headOf(type)],
      });
    }
  return [...ofTarget, ...inTypes.values()];
}

/** Counts the members that callers use and that only an outside type declares, such as those of an aliased class. */
export function countUnlisted(outline: Outline): number {
  const { aliased, wholeType, reexportsAll, usedKeys, types } = outline;
  // Without an alias, the type of such a member is written out where it is mentioned.
  if (aliased.length === 0 && wholeType === undefined && reexportsAll === undefined) return 0;
  const declared = new Set([
    ...exportedKeys(outline),
    ...types.flatMap(({ form, members = [] }) =>
      form === "own" ? members.flatMap(({ key, isUsed }) => (isUsed && key !== undefined ? [key] : [])) : [],
    ),
  ]);
  return [...usedKeys].filter((key) => !declared.has(key)).length + (wholeType === undefined ? 0 : 1);
}

function headOf({ bases, parameters }: CopiedType): readonly string[] {
  return bases.length + parameters.length === 0
    ? []
    : [`head${parameters}(): ${bases.join(" & ") || "void"}`];
}

function membersOfTarget({ object, members, whole }: Outline): readonly UsedTargetMember[] {
  const ofMember = (member: OutlineMember): readonly UsedTargetMember[] => {
    const { key, text, parts, factory } = member;
    const name = member.member || object;
    const usedParts = parts.filter(({ isUsed }) => isUsed);
    if (usedParts.length === 0)
      return [
        {
          name,
          choices: [exportChoice(key)],
          texts: [text, ...(factory ? [`${factory.member}${factory.text}`] : [])],
        },
      ];
    return usedParts.map((part) => ({
      name: `${name}.${part.name}`,
      choices: [exportChoice(key), ...(part.key === undefined ? [] : [part.key])],
      texts: [part.text],
    }));
  };
  return [
    ...members.filter(({ form }) => form !== "type" && form !== "whole").flatMap(ofMember),
    ...(whole ?? [])
      .filter(({ isUsed }) => isUsed)
      .map(({ name, key, text }) => ({
        name: name || object,
        choices: key === undefined ? [] : [key],
        texts: [text],
      })),
  ];
}

/** Returns the keys of the members of the values that callers import. */
function exportedKeys({ members, whole }: Outline): readonly string[] {
  const opened = members.flatMap(({ implementation }) => implementation?.memberKey ?? []);
  return [
    ...opened,
    ...[...members.flatMap(({ parts }) => parts), ...(whole ?? [])].flatMap(({ key }) => key ?? []),
  ];
}
