import type { Draft } from "../documents/draft-document.ts";
import { mentionsName } from "../types/type-text.ts";
import type { Outline } from "./outline/model.ts";

/**
 * Counts the used members and the types of a draft by the rung they are on. A member is on the rung of the
 * types in its signature: it is aliased if it mentions an outside type.
 */
export function qualityOf(outline: Outline): Draft["quality"] {
  const { members, whole, wholeType, types, aliased, reexports, usedOfAliased } = outline;
  const outsideNames = aliased.map(({ name }) => name);
  const isOwn = (text: string) => !outsideNames.some((name) => mentionsName(text, name));
  const own = types.filter(({ rung }) => rung !== "aliased");
  const texts = [
    ...members
      .filter(({ form }) => form !== "type" && form !== "whole")
      .flatMap(({ text, parts }) => (parts.length > 0 ? parts.map((part) => part.text) : [text])),
    ...(whole ?? []).map(({ text }) => text),
    ...own
      .filter(({ rung }) => rung === "own")
      .flatMap(({ members = [] }) => members.map(({ text }) => text)),
  ];
  const aliasedTypes = types.filter(({ rung }) => rung === "aliased");
  const insideAliased = aliasedTypes.reduce((sum, { name }) => sum + (usedOfAliased.get(name) ?? 0), 0);
  const ownMembers = texts.filter(isOwn).length;
  return {
    members: {
      own: ownMembers,
      aliased: texts.length - ownMembers + insideAliased + (wholeType === undefined ? 0 : 1),
      asserted: members.filter(({ isAsserted }) => isAsserted).length,
      reexported: reexports.filter(({ isType }) => !isType).length,
    },
    types: {
      own: own.filter(({ rung }) => rung === "own").length,
      opaque: own.filter(({ rung }) => rung === "opaque").length,
      aliased: aliasedTypes.length + reexports.filter(({ isType }) => isType).length,
    },
  };
}
