import type { Draft } from "../documents/draft-document.ts";
import { mentionsName } from "../types/writing/type-text.ts";
import type { Outline, OutlineMember } from "./outline/model.ts";

/**
 * Counts the used members and the types of a draft by their forms. Used members are the values that callers import, and
 * the members of outside objects that they use. A member that mentions an outside type is aliased, and so is one that is
 * reached only through such a member.
 */
export function qualityOf(outline: Outline): Draft["quality"] {
  const { members, types, wholeType, aliased, reexports, reexportsAll, usedKeys } = outline;
  const outsideNames = aliased.map(({ name }) => name);
  const isIndependent = (text: string) => !outsideNames.some((name) => mentionsName(text, name));
  const exported = exportedTexts(outline);
  const ownTypes = types.filter(({ form }) => form !== "aliased");
  const aliasedTypes = types.filter(({ form }) => form === "aliased");
  const reached = new Set<string>();
  const reach = (texts: readonly string[]): void => {
    for (const { name, members: inside = [], bases, text } of ownTypes) {
      if (reached.has(name) || !texts.some((source) => mentionsName(source, name))) continue;
      reached.add(name);
      reach([text, ...bases, ...inside.map((member) => member.text)].filter(isIndependent));
    }
  };
  reach(exported.filter(isIndependent));
  // A member that several types inherit is one member.
  const inTypes = new Map<string, boolean>();
  for (const { name, form, members: inside = [] } of ownTypes)
    for (const { key, text, isUsed } of form === "own" ? inside : [])
      if (isUsed && key !== undefined)
        inTypes.set(key, inTypes.get(key) === true || (reached.has(name) && isIndependent(text)));
  const exportKeys = new Set(exportedKeys(outline));
  const inTypesOnly = [...inTypes].filter(([key]) => !exportKeys.has(key));
  const ownCount = exported.filter(isIndependent).length + inTypesOnly.filter(([, isOwn]) => isOwn).length;
  // Members behind an alias, such as those of instances of an aliased class, are in no type of the target. Without an
  // alias, the type of such a member is written out where it is mentioned.
  const hasAlias = aliased.length > 0 || wholeType !== undefined || reexportsAll !== undefined;
  const unlisted = [...usedKeys].filter((key) => hasAlias && !exportKeys.has(key) && !inTypes.has(key));
  const total = exported.length + inTypesOnly.length + unlisted.length;
  return {
    members: {
      own: ownCount,
      aliased: total - ownCount + (wholeType === undefined ? 0 : 1),
      asserted: members.filter(({ isAsserted }) => isAsserted).length,
      reexported: reexports.filter(({ isType }) => !isType).length + (reexportsAll === undefined ? 0 : 1),
    },
    types: {
      own: ownTypes.filter(({ form }) => form === "own").length,
      opaque: ownTypes.filter(({ form }) => form === "opaque").length,
      aliased: aliasedTypes.length + reexports.filter(({ isType }) => isType).length,
    },
  };
}

/** Returns the source of each value that callers import, or of the members that they use of it. */
function exportedTexts({ members, whole }: Outline): readonly string[] {
  const partsOf = ({ text, parts, factory }: OutlineMember): readonly string[] => {
    const usedParts = parts.filter(({ isUsed }) => isUsed);
    return usedParts.length > 0 ? usedParts.map((part) => part.text) : [`${text} ${factory?.text ?? ""}`];
  };
  return [
    ...members.filter(({ form }) => form !== "type" && form !== "whole").flatMap(partsOf),
    ...(whole ?? []).filter(({ isUsed }) => isUsed).map(({ text }) => text),
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
