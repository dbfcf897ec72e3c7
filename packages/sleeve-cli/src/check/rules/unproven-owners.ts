import type { Node } from "../../compiler/syntax.ts";
import { isUntyped } from "../../conformance/exported.ts";
import { type Rule, ruleFinding } from "../checked-wrapper.ts";

/** Finds implementations about which nothing is known: of an untyped value, or without code. */
export const unprovenOwners: Rule = (subject) => {
  const { checker, owners, mapping, target, notFound } = subject;
  if (mapping) return [];
  const expected = checker.typeToString(target);
  const untyped = owners
    .filter(({ type }) => isUntyped(type))
    .map(({ type }) =>
      ruleFinding(subject, "unproven", null, undefined, {
        expected,
        found: checker.typeToString(type),
        remedy: "Annotate the value that implements it; this type proves nothing.",
      }),
    );
  if (!notFound) return untyped;
  const description = `${shortText(notFound)}, whose code is not in the project or cannot be followed`;
  const remedy = "Check what creates it instead, or export the class or object that implements the target.";
  return [
    ...untyped,
    ruleFinding(subject, "unproven", null, notFound, { expected, found: description, remedy }),
  ];
};

function shortText(node: Node): string {
  const text = node.getText().replace(/\s+/g, " ");
  return text.length > 60 ? `${text.slice(0, 59)}…` : text;
}
