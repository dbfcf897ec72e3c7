import { assertionsIn, suppressionsIn, untypedReturn } from "../../compiler/assertions.ts";
import type { Finding } from "../finding.ts";
import { type Rule, ruleFinding } from "../subject.ts";

/** Types that the code asserts and the compiler has not found, and errors that it is told not to report. */
export const assertions: Rule = (subject) => {
  const { checker, code, project, exported } = subject;
  if (!code) return [];
  const forced = assertionsIn(checker, code).map(({ node, member, kind, from, to }) =>
    ruleFinding(subject, "assertion", member ?? null, node, {
      expected: `${from}, as the compiler has it`,
      found: kind === "!" ? `${to}, by \`!\`` : `${to}, by \`as\``,
      remedy: "Convert the value, or check it at run time, so that the compiler finds the type by itself.",
    }),
  );
  const untyped = [...code.members.values()].flatMap((member) => {
    const node = untypedReturn(checker, member);
    if (!node) return [];
    const { text } = { text: node.getText().split("\n")[0] };
    return ruleFinding(subject, "unproven", member.name === "()" ? null : member.name, node, {
      expected: "a result whose type the compiler knows",
      found: `\`any\`, from ${text}`,
      remedy: "Give what it is made from a type; `any` proves nothing.",
    });
  });
  const source = project.sourceAt(exported.path);
  const suppressed = (source ? suppressionsIn(source.text, code) : []).map(
    (offset): Finding => ({
      name: "assertion",
      member: null,
      place: source ? project.placeOf(source, offset) : subject.place,
      expected: "a wrapper that the compiler checks",
      found: "a comment that keeps it from reporting an error",
      remedy: "Remove the comment, and mend what the compiler then says.",
    }),
  );
  return [...forced, ...untyped, ...suppressed];
};
