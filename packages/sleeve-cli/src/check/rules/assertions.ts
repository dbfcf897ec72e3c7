import { assertionsIn, suppressionsIn, untypedReturn } from "../../conformance/assertions.ts";
import type { Finding } from "../../documents/check-document.ts";
import { type Rule, ruleFinding } from "../checked-wrapper.ts";

/** Finds type assertions that the compiler cannot confirm, and comments that suppress its errors. */
export const assertions: Rule = (subject) => {
  const { checker, code, project } = subject;
  const forced = assertionsIn(checker, code).map(({ node, member, kind, from, to }) =>
    ruleFinding(subject, "assertion", member ?? null, node, {
      expected: `${from}, as the compiler infers`,
      found: kind === "!" ? `${to}, by \`!\`` : `${to}, by \`as\``,
      remedy: "Convert the value, or check it at run time, so that the compiler infers the type.",
    }),
  );
  const untyped = [...code.members.values()].flatMap((member) => {
    const node = untypedReturn(checker, member);
    if (!node) return [];
    const { text } = { text: node.getText().split("\n")[0] };
    return ruleFinding(subject, "unproven", member.name === "()" ? null : member.name, node, {
      expected: "a result of a known type",
      found: `\`any\`, from ${text}`,
      remedy: "Annotate the value it comes from; `any` proves nothing.",
    });
  });
  const suppressed = suppressionsIn(code).map(({ path, offset }): Finding => {
    const source = project.sourceAt(path);
    return {
      name: "assertion",
      member: null,
      place: source ? project.placeOf(source, offset) : subject.place,
      expected: "a wrapper without suppressed compiler errors",
      found: "a comment that suppresses an error",
      remedy: "Remove the comment, and fix the reported error.",
    };
  });
  return [...forced, ...untyped, ...suppressed];
};
