import type { MemberForm, WrapMember } from "../members.ts";

/** A line of source, and the member that it belongs to. */
export interface MemberLine {
  readonly text: string;
  readonly member?: string;
}

/** A member, in the form in which it is declared. */
export interface ChosenMember extends Omit<WrapMember, "forms"> {
  readonly form: MemberForm;
}

/** Writes a class: its head, then its members, each after its comment. */
export function classLines(
  head: readonly string[],
  members: readonly ChosenMember[],
  linesOf: (member: ChosenMember) => readonly string[],
): readonly MemberLine[] {
  return [
    ...head.map((text) => ({ text })),
    ...members.flatMap((member) => {
      const doc = member.doc === undefined ? [] : [`  /** ${member.doc} */`];
      const lines = [...doc, ...linesOf(member)].map((text) => ({ text, member: member.name }));
      return [{ text: "" }, ...lines];
    }),
    { text: "}" },
    { text: "" },
  ];
}

/** Returns a name in code after the right article: a `Crane`, An `Office`. */
export function withArticle(article: "A" | "a", name: string): string {
  return `${article}${/^[AEIOUaeio]/.test(name) ? "n" : ""} \`${name}\``;
}
