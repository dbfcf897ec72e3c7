import { isIdentifier } from "../compiler/syntax.ts";
import type { Node } from "../compiler/typescript.ts";

/** Returns the names that a declaration mentions in source order, except those it declares. */
export function mentionedNames(declaration: Node): readonly Node[] {
  const names: Node[] = [];
  const visit = (node: Node): void => {
    if (isIdentifier(node) && !isDeclaredName(node)) names.push(node);
    node.forEachChild(visit);
  };
  visit(declaration);
  return names;
}

/** Whether an identifier names a declaration, a member or a parameter rather than a type. */
function isDeclaredName(node: Node): boolean {
  const { name, propertyName, parameterName } = node.parent as Node & {
    readonly name?: Node;
    readonly propertyName?: Node;
    readonly parameterName?: Node;
  };
  return name === node || propertyName === node || parameterName === node;
}
