import { stringLiteral } from "../../written-text.ts";
import type { MethodForm } from "../members.ts";
import type { WrapTarget } from "../target.ts";
import { type ChosenMember, classLines, type MemberLine, withArticle } from "./class.ts";

/**
 * Writes a class for tests that implements a target with the answers it is given. Any other required member throws when it is
 * used.
 */
export function fakeLines(
  { type, name, parameters, isImplementable }: WrapTarget,
  className: string,
  members: readonly ChosenMember[],
): readonly MemberLine[] {
  const names = new Set(members.map((member) => member.name));
  const answers =
    ["answers", "givenAnswers", "answersGiven"].find((word) => !names.has(word)) ?? "allAnswers";
  const head = [
    `/** ${withArticle("A", name)} for tests. It has the members that \`${answers}\` has; using another one throws. */`,
    `export class ${className}${parameters} ${isImplementable ? `implements ${type} ` : ""}{`,
    "  /** The members, as functions and values. They can be replaced at any time. */",
    `  readonly ${answers}: Partial<${type}>;`,
    "",
    `  constructor(${answers}: Partial<${type}> = {}) {`,
    `    this.${answers} = ${answers};`,
    "  }",
    ...(members.every(({ isOptional }) => isOptional) ? [] : givenLines(type, className, answers)),
  ];
  return classLines(head, members, ({ key, form, isOptional }) => {
    const index = key.startsWith("[") ? key.slice(1, -1) : key.startsWith('"') ? key : stringLiteral(key);
    const given = isOptional ? `this.${answers}[${index}]` : `this.#given(${index})`;
    if (form.kind === "method") return methodLines(key, form, given);
    const { type: read, written, assertion } = form;
    const value = assertion === undefined ? given : `${given} as ${assertion}`;
    return [
      `  get ${key}(): ${read} {`,
      `    return ${value};`,
      "  }",
      ...(written === undefined
        ? []
        : [
            "",
            `  set ${key}(value: ${written}) {`,
            `    this.${answers}[${index}] = value${written === read ? "" : " as never"};`,
            "  }",
          ]),
    ];
  });
}

/** Returns a required member, or throws. */
function givenLines(type: string, className: string, answers: string): readonly string[] {
  return [
    "",
    `  #given<Key extends keyof ${type}>(key: Key): Required<${type}>[Key] {`,
    `    if (!(key in this.${answers}))`,
    `      throw new Error(\`${className}: \${String(key)} is not given. Set it in ${answers}.\`);`,
    `    return this.${answers}[key] as Required<${type}>[Key];`,
    "  }",
  ];
}

function methodLines(key: string, { signatures }: MethodForm, given: string): readonly string[] {
  const [first, ...others] = signatures;
  if (!first) return [];
  if (others.length > 0)
    return [
      ...signatures.map(({ text }) => `  ${key}${text};`),
      `  ${key}(...args: unknown[]): unknown {`,
      `    return Reflect.apply(${given}, this, args);`,
      "  }",
    ];
  const args = first.parameters.map(({ name, isRest }) => `${isRest ? "..." : ""}${name}`).join(", ");
  const head = `  ${key}${first.text} {`;
  if (first.result.startsWith("asserts ")) {
    const parameters = first.parameters.map(({ name, type }) => `${name}: ${type}`).join(", ");
    return [head, `    const check: (${parameters}) => void = ${given};`, `    check(${args});`, "  }"];
  }
  return [head, `    return ${given}(${args})${first.result === "this" ? " as this" : ""};`, "  }"];
}
