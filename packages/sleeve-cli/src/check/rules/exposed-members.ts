import { inheritedMembersOf, outsideTypesExposed } from "../../conformance/exposed-members.ts";
import { ownershipIn, RUNTIME } from "../../project/ownership.ts";
import { type Rule, ruleFinding } from "../checked-wrapper.ts";

const EXPOSED = 5;

/** Finds members of an extended adaptee that clients can access although the target does not have them. */
export const inherited: Rule = (subject) => {
  const { checker, code, target, targetMembers, project, paired } = subject;
  const base = inheritedMembersOf(checker, code, target, targetMembers, paired.length > 0);
  if (!base || base.members.length === 0) return [];
  const isOutside = !project.isOwn(base.path);
  if (base.base === "Error" || (!isOutside && !base.isAdapted)) return [];
  const unlisted = base.members.length - EXPOSED;
  const members = `${base.members.slice(0, EXPOSED).join(", ")}${unlisted > 0 ? ` and ${unlisted} more` : ""}`;
  return [
    ruleFinding(subject, "inherited", null, base.node, {
      expected: "only the target's members",
      found: `${members}, inherited from ${base.base}`,
      remedy: `Hold the ${base.base} in a private field instead of extending it.`,
    }),
  ];
};

/** Finds outside types in the public members of a wrapper. */
export const leaks: Rule = (subject) => {
  const { checker, project, wrapper, targetMembers } = subject;
  const ownership = ownershipIn(project, (name) => !RUNTIME.test(name));
  return outsideTypesExposed(checker, ownership, wrapper, targetMembers).map(({ member, node, exposes }) =>
    ruleFinding(subject, "leak", member, node, {
      expected: "only types of our own in public members",
      found: `${exposes.join(", ")}, an outside type`,
      remedy: `Make ${member} private, or give it a type of our own.`,
    }),
  );
};
