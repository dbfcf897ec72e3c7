import type { CopiedType } from "../../types/copied-types.ts";
import type { OutsideAlias } from "../../types/outside-aliases.ts";
import { mentionsName } from "../../types/writing/type-text.ts";

/** Returns the outside types that the target needs: those that replace a type, and those that source mentions. */
export function mentionedOutside(
  aliased: readonly OutsideAlias[],
  types: readonly CopiedType[],
  texts: readonly string[],
): readonly OutsideAlias[] {
  const aliasedNames = new Set(types.filter(({ form }) => form === "aliased").map(({ name }) => name));
  const sources = [
    ...texts,
    ...types.flatMap(({ text, parameters, members = [] }) => [
      text,
      parameters,
      ...members.map((member) => member.text),
    ]),
  ];
  return aliased.filter(
    ({ name }) => aliasedNames.has(name) || sources.some((source) => mentionsName(source, name)),
  );
}

/** Returns the types that some source mentions, directly or through other types. */
export function mentionedTypes(
  types: readonly CopiedType[],
  texts: readonly string[],
): readonly CopiedType[] {
  const byName = new Map(types.map((type) => [type.name, type]));
  const reached = new Set<string>();
  const reach = (name: string): void => {
    if (reached.has(name)) return;
    reached.add(name);
    byName.get(name)?.mentions.forEach(reach);
  };
  for (const { name } of types) if (texts.some((text) => mentionsName(text, name))) reach(name);
  return types.filter(({ name }) => reached.has(name));
}
