import type { WrapTarget } from "../target.ts";
import type { ChosenMember, MemberLine } from "./class.ts";

/**
 * Writes the members of a target with their kinds, as `proxy` and `contract` take them. Where that can be expressed, a member that
 * the target gets later is a compile error.
 */
export function surfaceLines(
  { type, name, parameters, isImplementable }: WrapTarget,
  constant: string,
  members: readonly ChosenMember[],
): readonly MemberLine[] {
  const isChecked = isImplementable && parameters === "";
  const clause = isChecked ? ` satisfies { readonly [Key in keyof ${type}]-?: "method" | "property" }` : "";
  return [
    { text: `/** The members of a \`${name}\`, with their kinds. */` },
    { text: `export const ${constant} = {` },
    ...members.map(({ name: member, key, isCalled }) => ({
      text: `  ${key}: "${isCalled ? "method" : "property"}",`,
      member,
    })),
    { text: `} as const${clause};` },
    { text: "" },
  ];
}
