import { readFileSync } from "node:fs";
import { createFromBuffer, type Formatter } from "@dprint/formatter";
import { getPath } from "@dprint/typescript";
import type { Style } from "./style.ts";

/** Lays out source in a style. The words of the source stay the same, in the same order. */
export function formatted(text: string, extension: string, style: Style): string {
  const formatter = formatterFor(style);
  return formatter.formatText({ filePath: `generated${extension}`, fileText: text });
}

let formatter: Formatter | undefined;
let current = "";

function formatterFor(style: Style): Formatter {
  formatter ??= createFromBuffer(readFileSync(getPath()));
  const key = JSON.stringify(style);
  if (key !== current) formatter.setConfig(...configOf(style));
  current = key;
  return formatter;
}

function configOf({
  indent,
  quote,
  hasSemicolons,
  endOfLine,
  width,
}: Style): Parameters<Formatter["setConfig"]> {
  return [
    {
      lineWidth: width,
      useTabs: indent === "tab",
      indentWidth: indent === "tab" ? 4 : indent,
      newLineKind: endOfLine === "\r\n" ? "crlf" : "lf",
    },
    {
      quoteStyle: quote === '"' ? "preferDouble" : "preferSingle",
      semiColons: hasSemicolons ? "prefer" : "asi",
      "arrowFunction.useParentheses": "force",
      "constructorType.spaceAfterNewKeyword": true,
      "constructSignature.spaceAfterNewKeyword": true,
      "parameters.preferSingleLine": true,
      "arguments.preferSingleLine": true,
      "typeParameters.preferSingleLine": true,
      "unionAndIntersectionType.preferHanging": true,
      quoteProps: "asNeeded",
      "module.sortImportDeclarations": "maintain",
      "module.sortExportDeclarations": "maintain",
      "importDeclaration.sortNamedImports": "maintain",
      "exportDeclaration.sortNamedExports": "maintain",
    },
  ];
}
