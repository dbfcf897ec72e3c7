import { MemberComparer } from "../../conformance/member-comparison.ts";
import { type Rule, ruleFinding } from "../checked-wrapper.ts";

/** Finds index signatures that do not match those of the target. */
export const indexSignatures: Rule = (subject) => {
  const { project, checker, owners, mapping, target, wrapper, paired } = subject;
  if (mapping) return [];
  const comparer = new MemberComparer(checker, (path) => project.isOwn(path), wrapper, paired);
  return owners.flatMap(({ type }) =>
    comparer.indexSignatures(target, type).flatMap(({ key, expected, found, any, mismatch }) => {
      if (any === undefined && !mismatch) return [];
      return ruleFinding(subject, any === undefined ? "result" : "unproven", null, undefined, {
        expected: `${expected} for each ${key} as a key`,
        found,
        remedy: `Annotate the index signature with ${expected}.`,
      });
    }),
  );
};
