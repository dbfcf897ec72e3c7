import { referencesIn } from "../../emit/references.ts";
import type { Outline } from "../outline/model.ts";
import type { UsedTargetMember } from "./used-target-members.ts";

/** Returns the members of a target whose types mention an outside type, each with the name of the first such type. */
export function outsideMentions(
  outline: Outline,
  members: readonly UsedTargetMember[],
): ReadonlyMap<UsedTargetMember, string> {
  const outsideNames = namesOfOutsideTypes(outline);
  const mentions = new Map<UsedTargetMember, string>();
  if (outsideNames.size === 0) return mentions;
  for (const member of members) {
    const names = member.texts.flatMap((text) => [...namesInMember(text)]);
    const mentioned = names.flatMap((name) => outsideNames.get(name) ?? []);
    if (mentioned[0] !== undefined) mentions.set(member, mentioned[0]);
  }
  return mentions;
}

/** Returns the names of types that are outside types or mention one in their own text, with the outside type. */
function namesOfOutsideTypes({ aliased, types }: Outline): ReadonlyMap<string, string> {
  const outsideNames = new Map(aliased.map(({ name }) => [name, name]));
  const withoutMembers = types.filter(({ members, form }) => members === undefined && form !== "aliased");
  for (let before = -1; before !== outsideNames.size; ) {
    before = outsideNames.size;
    for (const { name, text } of withoutMembers) {
      const [origin] = [...referencesIn(`type _ = ${text}`).keys()].flatMap(
        (mentioned) => outsideNames.get(mentioned) ?? [],
      );
      if (origin !== undefined && !outsideNames.has(name)) outsideNames.set(name, origin);
    }
  }
  return outsideNames;
}

function namesInMember(text: string): Iterable<string> {
  return referencesIn(`interface _ { ${text} }`).keys();
}
