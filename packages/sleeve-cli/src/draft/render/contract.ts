import { accessText } from "../../isolation/naming.ts";
import type { OutsideUses } from "../../isolation/outside-uses.ts";
import { compareText } from "../../place.ts";
import { exampleCallOf } from "../../uses/example-call.ts";
import type { Outline, OutlineMember } from "../outline.ts";

const MOST_EXAMPLES = 12;

/**
 * Writes a contract for a target: its surface, and an example for each self-contained call in the project.
 */
export function contractText(
  { target, object, members }: Outline,
  uses: OutsideUses,
  specifiers: {
    readonly target: string;
    /** The import of the surface document; if it is impossible, the document is inlined. */
    readonly surface: string | undefined;
    readonly document: string;
    /** Whether it must be a script, with types in comments. */
    readonly isScript: boolean;
  },
): string {
  const examples = examplesOf(members, object, uses);
  const document = specifiers.document
    .trimEnd()
    .replaceAll(/"([A-Za-z_$][\w$]*)":/g, "$1:")
    .replaceAll("\n", "\n  ");
  const { isScript } = specifiers;
  const doc = `What every ${target} must do. Arguments of generated calls follow from its surface.`;
  return [
    ...(isScript ? ["// @ts-check", ""] : []),
    'import { contract } from "sleeve/conform";',
    ...(specifiers.surface === undefined
      ? []
      : [`import surface from ${JSON.stringify(specifiers.surface)} with { type: "json" };`]),
    ...(isScript
      ? ["", `/** @typedef {import(${JSON.stringify(specifiers.target)}).${target}} ${target} */`]
      : [`import type { ${target} } from ${JSON.stringify(specifiers.target)};`]),
    "",
    ...(isScript
      ? [
          `/** ${doc} */`,
          `export const ${object}Contract = /** @type {typeof contract<${target}>} */ (contract)("${target}", {`,
        ]
      : [`/** ${doc} */`, `export const ${object}Contract = contract<${target}>("${target}", {`]),
    specifiers.surface === undefined ? `  surface: ${document},` : "  surface,",
    ...(examples.length === 0
      ? []
      : [
          "  examples: {",
          ...examples.map(({ title, call }) => `    ${JSON.stringify(title)}: (${object}) => ${call},`),
          "  },",
        ]),
    "});",
    "",
  ].join("\n");
}

function examplesOf(
  members: readonly OutlineMember[],
  object: string,
  { exports }: OutsideUses,
): readonly { readonly title: string; readonly call: string }[] {
  const found = new Map<string, string>();
  for (const { specifier, name, references } of exports) {
    const member = members.find(
      (member) => member.specifier === specifier && member.export === name && member.form !== "type",
    );
    if (!member) continue;
    const access = accessText(member.member);
    for (const { node, source } of references) {
      const rest = exampleCallOf(node);
      // Long calls, and those over several lines, make poor examples.
      if (rest === undefined || rest.length > 60 || rest.includes("\n")) continue;
      const made = member.form === "class" ? `new ${object}${access}` : `${object}${access}`;
      const call = `${made}${rest === "" || !/\)$/.test(rest) ? `${rest}()` : rest}`;
      if (!found.has(call)) found.set(call, `${member.member || object}, as in ${source.file}`);
    }
  }
  const titles = new Map<string, number>();
  return [...found]
    .slice(0, MOST_EXAMPLES)
    .map(([call, title]) => {
      const count = (titles.get(title) ?? 0) + 1;
      titles.set(title, count);
      return { call, title: count === 1 ? title : `${title}, ${count}` };
    })
    .sort((left, right) => compareText(left.title, right.title));
}
