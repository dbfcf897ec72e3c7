import { facadeLogicIn } from "../../conformance/facade-logic.ts";
import { type Rule, ruleFinding } from "../checked-wrapper.ts";

/** Finds facades with logic of their own besides delegating. */
export const facadeLogic: Rule = (subject) => {
  const { checker, code, isFacade } = subject;
  if (!isFacade) return [];
  return [...code.members.values()].flatMap((member) =>
    facadeLogicIn(checker, member).map(({ node, what }) =>
      ruleFinding(subject, "logic", member.name, node, {
        expected: "a facade that only delegates",
        found: what,
        remedy: "Move it to a subsystem, and call it from the facade.",
      }),
    ),
  );
};
