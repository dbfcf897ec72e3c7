import { unclosedHoldings } from "../../compiler/holding.ts";
import { type Rule, ruleFinding } from "../subject.ts";

/** What a wrapper makes for itself and cannot be asked to close. */
export const unclosed: Rule = (subject) => {
  const { checker, code, wrapper } = subject;
  if (!code) return [];
  return unclosedHoldings(checker, wrapper, code).map(({ node, type, closing }) =>
    ruleFinding(subject, "unclosed", null, node, {
      expected: `a way to close the ${type} that it makes, by its ${closing}`,
      found: "none",
      remedy: "Give the wrapper, and the target, a member that closes it, or take it from whoever makes it.",
    }),
  );
};
