import type { WrapTarget } from "../target.ts";
import { type ChosenMember, classLines, type MemberLine, withArticle } from "./class.ts";
import { forwardingLines } from "./forwarder.ts";

/** Writes a class that implements a target by one of several implementations, which can be changed at any time. */
export function bridgeLines(
  { type, name, parameters, isImplementable }: WrapTarget,
  className: string,
  members: readonly ChosenMember[],
): readonly MemberLine[] {
  const names = new Set(members.map((member) => member.name));
  const use = ["use", "useImplementation"].find((word) => !names.has(word)) ?? "switchImplementation";
  const list = `Readonly<Record<string, ${type}>>`;
  const head = [
    `/** ${withArticle("A", name)} that uses one of several implementations. Extend it to add what is built on all of them. */`,
    `export class ${className}${parameters} ${isImplementable ? `implements ${type} ` : ""}{`,
    `  readonly #implementations: ReadonlyMap<string, ${type}>;`,
    `  #subject: ${type};`,
    "",
    `  constructor(implementations: ${list}, start: string) {`,
    "    this.#implementations = new Map(Object.entries(implementations));",
    "    this.#subject = this.#named(start);",
    "  }",
    "",
    "  /** Switches to another implementation. Calls in flight end in the old one. Throws if there is none of that name. */",
    `  ${use}(name: string): void {`,
    "    this.#subject = this.#named(name);",
    "  }",
    "",
    `  #named(name: string): ${type} {`,
    "    const found = this.#implementations.get(name);",
    "    if (found !== undefined) return found;",
    '    const known = [...this.#implementations.keys()].join(", ");',
    `    throw new RangeError(\`There is no implementation \${name}. There are: \${known}.\`);`,
    "  }",
  ];
  return classLines(head, members, (member) => forwardingLines(member, isImplementable));
}
