import type { Code } from "../../emit/code.ts";
import { owned } from "../../emit/code.ts";
import type { Declaration } from "../../emit/module.ts";
import type { WrapTarget } from "../target/target.ts";
import type { ChosenMember } from "./class.ts";

/**
 * Returns the members of a target with their kinds, as `proxy` and `contract` take them. Where that can be expressed, a member
 * that the target gets later is a compile error.
 */
export function surfaceOf(
  { type, name, parameters, isImplementable }: WrapTarget,
  constant: string,
  members: readonly ChosenMember[],
): readonly Declaration[] {
  const isChecked = isImplementable && parameters === "";
  const clause = isChecked ? ` satisfies { readonly [Key in keyof ${type}]-?: "method" | "property" }` : "";
  return [
    {
      kind: "value",
      name: constant,
      doc: `The members of a \`${name}\`, with their kinds.`,
      value: [surfaceCode(members), ` as const${clause}`],
    },
  ];
}

/** Returns an object with the kind of each member. */
export function surfaceCode(members: readonly ChosenMember[]): Code {
  return [
    "{\n",
    members.map(({ name, key, isCalled }) =>
      owned([name], `${key}: "${isCalled ? "method" : "property"}",\n`),
    ),
    "}",
  ];
}
