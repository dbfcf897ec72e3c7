import { owned } from "../../emit/code.ts";
import type { Module } from "../../emit/module.ts";
import { stringLiteral } from "../../written-text.ts";
import type { Outline } from "../outline/model.ts";
import type { DraftedExample } from "./examples.ts";

/** Where a contract finds what it needs. */
export interface ContractSpecifiers {
  readonly target: string;
  /** The import of the surface document; if it is impossible, the contract contains the document. */
  readonly surface: string | undefined;
  readonly document: string;
}

/** Returns the owner of errors in an example. */
export function exampleKey(title: string): string {
  return `example ${title}`;
}

/**
 * Returns a contract for a target: its surface, an example for each self-contained call in the project, and a
 * refusal for each that must fail.
 */
export function contractModule(
  { target, object }: Outline,
  drafted: readonly DraftedExample[],
  { target: targetSpecifier, surface, document }: ContractSpecifiers,
): Module {
  const examples = drafted
    .filter(({ throws }) => throws === undefined)
    .map(({ title, call }) =>
      owned([exampleKey(title)], `${stringLiteral(title)}: (${object}) => ${call},\n`),
    );
  const refusals = drafted
    .filter(({ throws }) => throws !== undefined)
    .map(({ title, call, throws }) =>
      owned(
        [exampleKey(title)],
        `${stringLiteral(title)}: { call: (${object}) => ${call}, error: ${throws} },\n`,
      ),
    );
  return {
    isChecked: true,
    imports: [
      { specifier: "sleeve/conform", name: "contract", local: "contract" },
      { specifier: surface ?? "", name: "default", local: "surface", isJson: true },
      { specifier: targetSpecifier, name: target, local: target },
    ],
    declarations: [
      {
        kind: "value",
        name: `${object}Contract`,
        doc: `What every ${target} must do. Arguments of generated calls follow from its surface.`,
        value: [
          `contract<${target}>("${target}", {\n`,
          surface === undefined ? `surface: ${document.trimEnd()},\n` : "surface,\n",
          examples.length > 0 ? ["examples: {\n", examples, "},\n"] : "",
          refusals.length > 0 ? ["refusals: {\n", refusals, "},\n"] : "",
          "})",
        ],
      },
    ],
  };
}
