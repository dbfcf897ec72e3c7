import type { WrittenSignature } from "../members.ts";
import type { ChosenMember } from "./class.ts";

/** Writes a member that does not compile until it is completed, with a comment that says why it is open. */
export function openLines({ form, key }: ChosenMember, comment: readonly string[]): readonly string[] {
  const open = [
    ...comment.map((line) => `    // ${line}`),
    '    const incomplete: never = "Complete this member, and remove this line.";',
    "    return incomplete;",
  ];
  if (form.kind === "method") {
    const [first, ...others] = form.signatures;
    const head = others.length > 0 ? "(...args: unknown[]): unknown" : (first?.text ?? "()");
    const [result] = /(?<=: )asserts .*$/.exec(first?.text ?? "") ?? [];
    const lines = result === undefined ? open : open.slice(0, -1);
    return [...overloadsOf(form.signatures, key), `  ${key}${head} {`, ...lines, "  }"];
  }
  const read = [`  get ${key}(): ${form.type} {`, ...open, "  }"];
  if (form.written === undefined) return read;
  return [
    ...read,
    "",
    `  set ${key}(value: ${form.written}) {`,
    "    const incomplete: never = value;",
    "    void incomplete;",
    "  }",
  ];
}

/** Writes the declarations of a method with several signatures. */
export function overloadsOf(signatures: readonly WrittenSignature[], key: string): readonly string[] {
  return signatures.length > 1 ? signatures.map(({ text }) => `  ${key}${text};`) : [];
}
