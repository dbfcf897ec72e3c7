import type { Program } from "../compiler/program.ts";
import { type JsxNames, jsxNamesIn } from "../compiler/settings/jsx.ts";
import { type Node, type SourceFile, SyntaxKind } from "../compiler/typescript.ts";

/** A JSX element or fragment, and the path of the name in scope that it uses: `["React", "createElement"]`. */
export interface JsxElementUse {
  readonly node: Node;
  readonly path: readonly string[];
}

/** Returns the JSX elements and fragments of a file that use names in scope without naming them. */
export function jsxElementsIn(program: Program, source: SourceFile): readonly JsxElementUse[] {
  if (!/\.[jt]sx$/.test(source.fileName)) return [];
  const options = program.optionsFor(source.fileName);
  const names = options && jsxNamesIn(source.text, options);
  if (!names) return [];
  const elements: JsxElementUse[] = [];
  const visit = (node: Node): void => {
    elements.push(...pathsFor(node, names).map((path) => ({ node, path })));
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  return elements;
}

function pathsFor(node: Node, { factory, fragment }: JsxNames): readonly (readonly string[])[] {
  switch (node.kind) {
    case SyntaxKind.JsxOpeningElement:
    case SyntaxKind.JsxSelfClosingElement:
      return [factory];
    case SyntaxKind.JsxOpeningFragment:
      return [factory, fragment];
    default:
      return [];
  }
}
