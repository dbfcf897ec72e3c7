import { accessors, bodied, type ChosenMember, methodHead } from "./class.ts";

/** Returns a member that does not compile until it is completed, with a comment that says why it is open. */
export function openCode({ form, key }: ChosenMember, comment: readonly string[]): string {
  const open = [
    ...comment.map((line) => `// ${line}`),
    'const incomplete: never = "Complete this member, and remove this line.";',
  ];
  if (form.kind === "method") {
    const isAssertion = form.signatures.length === 1 && form.signatures[0]?.isAssertion === true;
    return bodied(methodHead(form.signatures, key), isAssertion ? open : [...open, "return incomplete;"]);
  }
  return accessors(
    key,
    form,
    [...open, "return incomplete;"],
    ["const incomplete: never = value;", "void incomplete;"],
  );
}
