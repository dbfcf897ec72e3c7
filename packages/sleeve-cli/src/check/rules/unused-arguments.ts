import { ignoredArguments } from "../../conformance/unused-arguments.ts";
import { type Rule, ruleFinding } from "../checked-wrapper.ts";

/** Finds arguments that the target sends and the wrapper's code never uses. */
export const unusedArguments: Rule = (subject) => {
  const { checker, code, targetMembers } = subject;
  return targetMembers.flatMap((target) => {
    const member = code.members.get(target.name);
    if (!member) return [];
    return ignoredArguments(checker, target, member).map((name) =>
      ruleFinding(subject, "unused", target.name, member.node, {
        expected: `a use of ${name}, which the target sends`,
        found: "nothing",
        remedy: `Use ${name}, or rename it to _${name} if it is ignored on purpose.`,
      }),
    );
  });
};
