import { type Checker, type Node, SyntaxKind } from "../../compiler/typescript.ts";
import { accessText } from "../../isolation/naming.ts";
import type { OutsideUses } from "../../isolation/outside/outside-uses.ts";
import { compareText } from "../../place.ts";
import { exampleCallsOf } from "../../uses/example-call.ts";
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
  { object, members }: Outline,
  { exports }: OutsideUses,
  checkerOf: (path: string) => Checker | undefined,
): readonly DraftedExample[] {
  const byTitle = new Map<string, Omit<DraftedExample, "call">>();
  for (const { specifier, name, references } of exports) {
    const member = members.find(
      (member) => member.specifier === specifier && member.export === name && member.form !== "type",
    );
    if (!member) continue;
    const access = accessText(member.member);
    for (const { node, source } of references) {
      const checker = checkerOf(source.path);
      for (const callTail of checker ? exampleCallsOf(node, checker) : []) {
        // Long calls, and those over several lines, make poor examples.
        if (callTail.length > LONGEST || callTail.includes("\n")) continue;
        const called = member.form === "class" ? `new ${object}${access}` : `${object}${access}`;
        const call = `${called}${callTail === "" || !/\)$/.test(callTail) ? `${callTail}()` : callTail}`;
        const title = `${member.member || object}, as in ${source.file}`;
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

function isInTry(node: Node): boolean {
  for (let at = node; at.parent; at = at.parent) {
    const { kind, tryBlock, catchClause } = at.parent as Node & { tryBlock?: Node; catchClause?: Node };
    if (kind === SyntaxKind.TryStatement && catchClause && tryBlock === at) return true;
  }
  return false;
}
