import { stringLiteral } from "../../written-text.ts";
import type { Outline } from "../outline/model.ts";
import { type RenderedSource, SourceBuilder } from "../render/source-builder.ts";
import type { DraftedExample } from "./examples.ts";

/** Returns the key of an example, for errors in its line. */
export function exampleKey(title: string): string {
  return `example ${title}`;
}

/**
 * Writes a contract for a target: its surface, an example for each self-contained call in the project, and a
 * refusal for each that must fail.
 */
export function contractText(
  { target, object }: Outline,
  all: readonly DraftedExample[],
  specifiers: {
    readonly target: string;
    /** The import of the surface document; if it is impossible, the document is inlined. */
    readonly surface: string | undefined;
    readonly document: string;
    /** Whether it must be a script, with types in comments. */
    readonly isScript: boolean;
  },
): RenderedSource {
  const lines = new SourceBuilder();
  const examples = all.filter(({ throws }) => throws === undefined);
  const refusals = all.filter(({ throws }) => throws !== undefined);
  const document = specifiers.document
    .trimEnd()
    .replaceAll(/"([A-Za-z_$][\w$]*)":/g, "$1:")
    .replaceAll("\n", "\n  ");
  const { isScript } = specifiers;
  const doc = `What every ${target} must do. Arguments of generated calls follow from its surface.`;
  const opening = [
    ...(isScript ? ["// @ts-check", ""] : []),
    'import { contract } from "sleeve/conform";',
    ...(specifiers.surface === undefined
      ? []
      : [`import surface from ${stringLiteral(specifiers.surface)} with { type: "json" };`]),
    ...(isScript
      ? ["", `/** @typedef {import(${stringLiteral(specifiers.target)}).${target}} ${target} */`]
      : [`import type { ${target} } from ${stringLiteral(specifiers.target)};`]),
    "",
    ...(isScript
      ? [
          `/** ${doc} */`,
          `export const ${object}Contract = /** @type {typeof contract<${target}>} */ (contract)("${target}", {`,
        ]
      : [`/** ${doc} */`, `export const ${object}Contract = contract<${target}>("${target}", {`]),
    specifiers.surface === undefined ? `  surface: ${document},` : "  surface,",
  ];
  for (const line of opening) lines.add(line);
  if (examples.length > 0) lines.add("  examples: {");
  for (const { title, call } of examples)
    lines.add(`    ${stringLiteral(title)}: (${object}) => ${call},`, [exampleKey(title)]);
  if (examples.length > 0) lines.add("  },");
  if (refusals.length > 0) lines.add("  refusals: {");
  for (const { title, call, throws } of refusals)
    lines.add(`    ${stringLiteral(title)}: { call: (${object}) => ${call}, error: ${throws} },`, [
      exampleKey(title),
    ]);
  if (refusals.length > 0) lines.add("  },");
  lines.add("});");
  return lines.build();
}
