import { unclosedResources } from "../../conformance/owned-resources.ts";
import { type Rule, ruleFinding } from "../checked-wrapper.ts";

/** Finds resources that a wrapper creates and that it offers no way to close. */
export const unclosed: Rule = (subject) => {
  const { checker, code, wrapper } = subject;
  return unclosedResources(checker, wrapper, code).map(({ node, type, closing }) =>
    ruleFinding(subject, "unclosed", null, node, {
      expected: `a way to close the ${type} that it creates, by its ${closing}`,
      found: "none",
      remedy: "Add a member that closes it to the wrapper and the target, or accept it from its creator.",
    }),
  );
};
