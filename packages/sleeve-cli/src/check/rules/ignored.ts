import { ignoredArguments } from "../../compiler/ignored.ts";
import { type Rule, ruleFinding } from "../subject.ts";

/** Arguments that the target sends and the wrapper's code makes nothing of. */
export const ignored: Rule = (subject) => {
  const { checker, code, targetMembers } = subject;
  return targetMembers.flatMap((target) => {
    const member = code?.members.get(target.name);
    if (!member) return [];
    return ignoredArguments(checker, target, member).map((name) =>
      ruleFinding(subject, "ignored", target.name, member.node, {
        expected: `something made of ${name}, which the target sends`,
        found: "nothing",
        remedy: `Use ${name}, or call it _${name} to say that it is ignored on purpose.`,
      }),
    );
  });
};
