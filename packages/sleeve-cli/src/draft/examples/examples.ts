import { type Checker, type Node, SyntaxKind } from "../../compiler/typescript.ts";
import { accessText, exportKey } from "../../isolation/naming.ts";
import type { OutsideUses } from "../../isolation/outside/outside-uses.ts";
import { openedMember } from "../../isolation/replacement.ts";
import { compareText } from "../../place.ts";
import { exampleCallsOf } from "../../uses/example-call.ts";
import type { Reference } from "../../uses/imported-names.ts";
import type { Outline } from "../outline/model.ts";

/** A call in the project that the contract of a target repeats. */
export interface DraftedExample {
  /** `forecast, as in src/office.ts`. */
  readonly title: string;
  /** The call on the target's object: `harbour.forecast("Outer Mole")`. */
  readonly call: string;
  /** Whether the project catches what the call throws. */
  readonly isHandled: boolean;
  /** The name of the error that the call is known to throw, if it must. */
  readonly throws?: string | undefined;
}

const MOST_EXAMPLES = 24;
const LONGEST = 80;

/** Returns an example for each distinct self-contained call in the project. */
export function examplesOf(
  outline: Outline,
  { exports }: OutsideUses,
  checkerOf: (path: string) => Checker | undefined,
): readonly DraftedExample[] {
  const { object } = outline;
  const byTitle = new Map<string, Omit<DraftedExample, "call">>();
  for (const exported of exports) {
    for (const { node, source, ...reference } of exported.references) {
      const member = offeredBy(outline, exported, { ...reference, node });
      if (!member) continue;
      const access = accessText(member.access);
      const checker = checkerOf(source.path);
      for (const callTail of checker ? exampleCallsOf(node, checker) : []) {
        // Long calls, and those over several lines, make poor examples.
        if (callTail.length > LONGEST || callTail.includes("\n")) continue;
        const called = member.isClass ? `new ${object}${access}` : `${object}${access}`;
        const call = `${called}${callTail === "" || !/\)$/.test(callTail) ? `${callTail}()` : callTail}`;
        const title = `${member.name || object}, as in ${source.file}`;
        if (!byTitle.has(call)) byTitle.set(call, { title, isHandled: isInTry(node) });
      }
    }
  }
  const titles = new Map<string, number>();
  return [...byTitle]
    .slice(0, MOST_EXAMPLES)
    .map(([call, { title, isHandled }]) => {
      const count = (titles.get(title) ?? 0) + 1;
      titles.set(title, count);
      return { call, title: count === 1 ? title : `${title}, ${count}`, isHandled };
    })
    .sort((left, right) => compareText(left.title, right.title));
}

/** Returns the member with which a reference is called; `undefined` if the target has none. */
function offeredBy(
  { outside, members, replacements }: Outline,
  { specifier, name }: OutsideUses["exports"][number],
  reference: Reference,
): { readonly name: string; readonly access: string; readonly isClass: boolean } | undefined {
  const replacement = replacements?.get(exportKey(outside, specifier, name));
  if (replacement) {
    const opened = openedMember(reference, replacement);
    // The access that follows is a part of the call.
    const isRenamed = opened && !replacement.opened?.has(opened.member);
    if (opened) return isRenamed ? undefined : { name: opened.member, access: "", isClass: false };
    const member = reference.kind === "new" ? replacement.factory : replacement.member;
    const isClass = reference.kind === "new" && replacement.factory === undefined;
    const offered = member ?? (isClass ? replacement.member : undefined);
    return offered === undefined ? undefined : { name: offered, access: offered, isClass };
  }
  const member = members.find(
    (candidate) =>
      candidate.specifier === specifier && candidate.export === name && candidate.form !== "type",
  );
  return member && { name: member.member, access: member.member, isClass: member.form === "class" };
}

function isInTry(node: Node): boolean {
  for (let at = node; at.parent; at = at.parent) {
    const { kind, tryBlock, catchClause } = at.parent as Node & { tryBlock?: Node; catchClause?: Node };
    if (kind === SyntaxKind.TryStatement && catchClause && tryBlock === at) return true;
  }
  return false;
}
