import type { Draft } from "../documents/draft-document.ts";
import { mentionsName } from "../types/type-text.ts";
import type { Outline } from "./outline.ts";

/**
 * Counts the used members and the types of a draft by the rung they are on. A member is on the rung of the
 * types in its signature: it is handed on if it mentions an outside type.
 */
export function qualityOf(outline: Outline): Draft["quality"] {
  const { members, whole, wholeType, types, handedOn, reexports, usedOfHandedOn } = outline;
  const outsideNames = handedOn.map(({ name }) => name);
  const isOwn = (text: string) => !outsideNames.some((name) => mentionsName(text, name));
  const own = types.filter(({ rung }) => rung !== "handed on");
  const texts = [
    ...members
      .filter(({ form }) => form !== "type" && form !== "whole")
      .flatMap(({ text, parts }) => (parts.length > 0 ? parts.map((part) => part.text) : [text])),
    ...(whole ?? []).map(({ text }) => text),
    ...own
      .filter(({ rung }) => rung === "own")
      .flatMap(({ members = [] }) => members.map(({ text }) => text)),
  ];
  const handedOnTypes = types.filter(({ rung }) => rung === "handed on");
  const insideHandedOn = handedOnTypes.reduce((sum, { name }) => sum + (usedOfHandedOn.get(name) ?? 0), 0);
  const ownMembers = texts.filter(isOwn).length;
  return {
    members: {
      own: ownMembers,
      handedOn: texts.length - ownMembers + insideHandedOn + (wholeType === undefined ? 0 : 1),
      reexported: reexports.filter(({ isType }) => !isType).length,
    },
    types: {
      own: own.filter(({ rung }) => rung === "own").length,
      opaque: own.filter(({ rung }) => rung === "opaque").length,
      handedOn: handedOnTypes.length + reexports.filter(({ isType }) => isType).length,
    },
  };
}
