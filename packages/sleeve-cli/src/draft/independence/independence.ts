import { basename } from "node:path";
import type { Draft } from "../../documents/draft-document.ts";
import type { CompileError } from "../../emit/compile-errors.ts";
import { Lines } from "../../place.ts";
import type { Attempt } from "../attempts.ts";
import type { Outline } from "../outline/model.ts";
import { outsideMentions } from "./outside-mentions.ts";
import { countUnlisted, usedTargetMembers } from "./used-target-members.ts";

/** Which used members of a target are independent of the outside module, and why the others are not. */
export type Independence = Draft["quality"];

/**
 * Returns which used members of a target are independent of the outside module.
 *
 * @param errors errors of the target and of the moved callers in a program in which the outside module does not exist
 * @param choicesAt returns the choices of the draft that an error may come from
 */
export function independenceOf(
  { outline, target, proposed }: Pick<Attempt, "outline" | "target" | "proposed">,
  errors: readonly CompileError[],
  choicesAt: (error: CompileError) => readonly string[],
): Independence {
  const members = usedTargetMembers(outline);
  const mentions = outsideMentions(outline, members);
  const choicesOfMentions = new Set([...mentions.keys()].flatMap(({ choices }) => choices));
  const blamed = errors
    .map((error) => ({ error, choices: choicesAt(error) }))
    // What mentions an outside type is dependent already, and explains the error.
    .filter(({ choices }) => !choices.some((choice) => choicesOfMentions.has(choice)))
    .filter(({ error }) => mentions.size === 0 || !isImplicitAny(error));
  const dependents = members.flatMap((member) => {
    const mentioned = mentions.get(member);
    if (mentioned !== undefined) return { member: member.name, why: `its type mentions ${mentioned}` };
    const blame = blamed.find(({ choices }) => choices.some((choice) => member.choices.includes(choice)));
    return blame ? { member: member.name, why: errorText(blame.error, outline, proposed) } : [];
  });
  const memberChoices = new Set(members.flatMap(({ choices }) => choices));
  const unattributed = blamed.filter(({ choices }) => !choices.some((choice) => memberChoices.has(choice)));
  const reexported = outline.reexports.filter(({ isType }) => !isType);
  return {
    members: {
      independent: members.length - dependents.length,
      dependent: dependents.length + countUnlisted(outline),
      reexported: reexported.length + (outline.reexportsAll === undefined ? 0 : 1),
    },
    asserted: outline.members.filter(({ isAsserted }) => isAsserted).length,
    targetLines: target.trimEnd().split("\n").length,
    dependents,
    elsewhere: unattributed.map(({ error }) => errorText(error, outline, proposed)),
  };
}

/** Whether the compiler reports that a type cannot be inferred, which follows from a type that is missing elsewhere. */
function isImplicitAny({ code }: CompileError): boolean {
  return code >= 7005 && code < 7060;
}

function errorText(
  { path, offset, text }: CompileError,
  { outside }: Outline,
  proposed: ReadonlyMap<string, string>,
): string {
  const { line } = new Lines(proposed.get(path) ?? "").at(offset);
  return `without ${outside}, line ${line} of ${basename(path)} does not compile: ${text.replace(/\.$/, "")}`;
}
