import type { TargetMember } from "../../conformance/candidates.ts";
import { isDeclaredAlone, isFunctionProperty, takenOff, usesThis } from "../../conformance/receivers.ts";
import { placeText } from "../../place.ts";
import { type CheckedWrapper, type Rule, ruleFinding } from "../checked-wrapper.ts";

/** Finds members that use `this`, although the target or its clients call them without a receiver. */
export const unbound: Rule = (subject) => {
  const { code, targetMembers } = subject;
  return targetMembers.flatMap((target) => {
    const member = code.members.get(target.name);
    if (!member?.parameters || target.call || !usesThis(member)) return [];
    const alone = calledAloneText(subject, target);
    if (alone === undefined) return [];
    return [
      ruleFinding(subject, "unbound", target.name, member.node, {
        expected: `a member that can be called without a receiver, ${alone}`,
        found: "one that uses `this`",
        remedy: `Make ${target.name} an arrow function, or bind it.`,
      }),
    ];
  });
};

/** Returns why a member is called without a receiver; `undefined` if it is not known to be. */
function calledAloneText(subject: CheckedWrapper, target: TargetMember): string | undefined {
  if (isDeclaredAlone(subject.checker, target)) return "as the target declares with `this: void`";
  if (isFunctionProperty(subject.checker, target))
    return "since the target declares a property that holds a function";
  return takenOffText(subject, target.name);
}

function takenOffText({ project, targetMembers }: CheckedWrapper, name: string): string | undefined {
  const target = targetMembers.find((member) => member.name === name);
  if (!target || !/^[\w$]+$/.test(name)) return undefined;
  const escaped = name.replaceAll("$", "\\$");
  const pattern = new RegExp(
    `(?<=\\.)${escaped}(?![\\w$])(?!\\s*[(.\`])|(?<=[{,]\\s*)${escaped}(?=\\s*[,:}])`,
    "g",
  );
  const mentions = project.sources.flatMap(({ path, text }) =>
    [...text.matchAll(pattern)].map(({ index }) => ({ path, offset: index })),
  );
  const detached = takenOff(project.program, target, mentions);
  const source = detached && project.sourceAt(detached.path);
  return source && `as it is in ${placeText(project.placeOf(source, detached.offset))}`;
}
