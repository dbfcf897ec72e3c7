import type { Declaration } from "../../emit/module.ts";
import type { WrapTarget } from "../target/target.ts";
import { bodied, type ChosenMember, classMembers, classOf, withArticle } from "./class.ts";
import { forwardingCode } from "./forwarder.ts";

/** Returns a class that implements a target by one of several implementations, which can be changed at any time. */
export function bridgeOf(
  target: WrapTarget,
  className: string,
  members: readonly ChosenMember[],
): readonly Declaration[] {
  const { type, name, isImplementable } = target;
  const names = new Set(members.map((member) => member.name));
  const use = ["use", "useImplementation"].find((word) => !names.has(word)) ?? "switchImplementation";
  const bridge = classOf(target, className, {
    doc: `${withArticle("A", name)} that uses one of several implementations. Extend it to add what is built on all of them.`,
    fields: [`readonly #implementations: ReadonlyMap<string, ${type}>`, `#subject: ${type}`],
    members: [
      {
        code: bodied(`constructor(implementations: Readonly<Record<string, ${type}>>, start: string)`, [
          "this.#implementations = new Map(Object.entries(implementations));",
          "this.#subject = this.#named(start);",
        ]),
      },
      {
        doc: "Switches to another implementation. Calls in flight end in the old one. Throws if there is none of that name.",
        code: bodied(`${use}(name: string): void`, ["this.#subject = this.#named(name);"]),
      },
      {
        code: bodied(`#named(name: string): ${type}`, [
          "const implementation = this.#implementations.get(name);",
          "if (implementation !== undefined) return implementation;",
          'const names = [...this.#implementations.keys()].join(", ");',
          `throw new RangeError(\`There is no implementation \${name}. There are: \${names}.\`);`,
        ]),
      },
      ...classMembers(members, (member) => forwardingCode(member, isImplementable)),
    ],
  });
  return [bridge];
}
