import { inheritedMembersOf, outsideTypesShown } from "../../compiler/showing.ts";
import { type Rule, ruleFinding } from "../subject.ts";

const SHOWN = 5;

/** Members of an adaptee that a wrapper extends, which its clients can reach although the target has none of them. */
export const inherited: Rule = (subject) => {
  const { checker, code, target, targetMembers, project } = subject;
  const base = code && inheritedMembersOf(checker, code, target, targetMembers);
  if (!base || base.members.length === 0) return [];
  const isOutside = !project.isOwn(base.path);
  if (base.base === "Error" || (!isOutside && !base.isAdapted)) return [];
  const rest = base.members.length - SHOWN;
  const members = `${base.members.slice(0, SHOWN).join(", ")}${rest > 0 ? ` and ${rest} more` : ""}`;
  return [
    ruleFinding(subject, "inherited", null, base.node, {
      expected: "no members but the target's",
      found: `${members}, of ${base.base}`,
      remedy: `Hold the ${base.base} in a private field in place of extending it.`,
    }),
  ];
};

/** Outside types that clients of a wrapper see in its public members. */
export const leaks: Rule = (subject) => {
  const { checker, project, wrapper, targetMembers } = subject;
  const isOfInterest = (path: string) => {
    const name = project.packageOf(path);
    return name !== undefined && !RUNTIME.test(name);
  };
  const ownership = {
    isOfInterest,
    isOwn: (path: string) => project.isOwn(path),
    importedAs: () => undefined,
  };
  return outsideTypesShown(checker, ownership, wrapper, targetMembers).map(({ member, node, shows }) =>
    ruleFinding(subject, "leak", member, node, {
      expected: "types of our own in what clients see",
      found: `${shows.join(", ")}, of outside`,
      remedy: `Make ${member} private, or give it a type of our own.`,
    }),
  );
};

/** What the language and the runtime declare is there without any package of ours. */
const RUNTIME = /^(typescript|@typescript\/.*|node|undici-types|sleeve)$/;
