import { ownWorkIn } from "../../compiler/work.ts";
import { type Rule, ruleFinding } from "../subject.ts";

/** Facades that do the work themselves beside delegating it. */
export const work: Rule = (subject) => {
  const { checker, code, isFacade } = subject;
  if (!isFacade || !code) return [];
  return [...code.members.values()].flatMap((member) =>
    ownWorkIn(checker, member).map(({ node, what }) =>
      ruleFinding(subject, "work", member.name, node, {
        expected: "a facade that delegates",
        found: what,
        remedy: "Move it to a subsystem, and let the facade call it there.",
      }),
    ),
  );
};
