import type { Code } from "../../emit/code.ts";
import type { ClassDeclaration, Member } from "../../emit/module.ts";
import type { MemberForm, WrapMember, WrittenSignature } from "../target/signature-forms.ts";
import type { WrapTarget } from "../target/target.ts";

/** A member, in the form in which it is declared. */
export interface ChosenMember extends Omit<WrapMember, "forms"> {
  readonly form: MemberForm;
}

/** Returns a class that implements a target, as far as that can be said by a clause. */
export function classOf(
  { type, parameters, isImplementable }: WrapTarget,
  className: string,
  declaration: Pick<ClassDeclaration, "doc" | "fields" | "members">,
): ClassDeclaration {
  return {
    kind: "class",
    name: className,
    parameters,
    implements: isImplementable ? [type] : [],
    ...declaration,
  };
}

/** Returns the members of a class that has those of a target. Errors in one belong to it. */
export function classMembers(
  members: readonly ChosenMember[],
  codeOf: (member: ChosenMember) => Code,
): readonly Member[] {
  return members.map((member) => ({ doc: member.doc, owners: [member.name], code: codeOf(member) }));
}

/** Returns a function of a class, or an accessor: its head, and its body in braces. */
export function bodied(head: string, statements: readonly string[]): string {
  return `${head} {\n${statements.join("\n")}\n}`;
}

/** Returns a getter and, for a property that is written, a setter with a parameter `value`. */
export function accessors(
  key: string,
  { type, written }: { readonly type: string; readonly written: string | undefined },
  read: readonly string[],
  write: readonly string[],
): string {
  const getter = bodied(`get ${key}(): ${type}`, read);
  return written === undefined ? getter : `${getter}\n\n${bodied(`set ${key}(value: ${written})`, write)}`;
}

/**
 * Returns the head of a method: that of its only signature, or one for all after its overloads.
 *
 * @param prefix precedes the name: `async`, or `*`
 */
export function methodHead(signatures: readonly WrittenSignature[], key: string, prefix = ""): string {
  const [signature, ...others] = signatures;
  return others.length === 0
    ? `${prefix}${key}${signature?.text ?? "()"}`
    : overloadedHead(signatures, key, prefix);
}

/** Returns the overloads of a method, and the head that takes all of their arguments. */
export function overloadedHead(signatures: readonly WrittenSignature[], key: string, prefix = ""): string {
  const overloads = signatures.length > 1 ? signatures.map(({ text }) => `${key}${text};\n`).join("") : "";
  return `${overloads}${prefix}${key}(...args: unknown[]): unknown`;
}

/** Returns the arguments that a call with the parameters of a signature passes on. */
export function argumentList({ parameters }: WrittenSignature): string {
  return parameters.map(({ name, isRest }) => `${isRest ? "..." : ""}${name}`).join(", ");
}

/** Returns a name in code after the right article: a `Crane`, An `Office`. */
export function withArticle(article: "A" | "a", name: string): string {
  return `${article}${/^[AEIOUaeio]/.test(name) ? "n" : ""} \`${name}\``;
}
