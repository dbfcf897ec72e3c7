import { type Node, SyntaxKind } from "../../compiler/typescript.ts";

/** How the parts of a node are written. */
export interface PartWriter {
  readonly code: (child: Node) => string;
  /** Returns the text of a type; `undefined` if it is left out. */
  readonly type: (child: Node) => string | undefined;
}

interface TypedNode {
  readonly type?: Node;
  readonly typeArguments?: readonly Node[];
  readonly typeParameters?: readonly Node[];
  readonly modifiers?: readonly Node[];
  readonly exclamationToken?: Node;
}

/** Returns the text of a node with its parts written anew, without types that are left out, and without `export`. */
export function codeOfNode(node: Node, write: PartWriter): string {
  const { text } = node.getSourceFile();
  const { type, typeArguments, typeParameters, modifiers, exclamationToken } = node as Node & TypedNode;
  const lists = [keptList(typeArguments, write), keptList(typeParameters, write)];
  let code = "";
  let at = node.getStart();
  node.forEachChild((child) => {
    const between = text.slice(at, child.getStart());
    at = Math.max(at, child.end);
    if (isExport(child) && modifiers?.includes(child)) at = child.end + 1;
    else if (child === type) {
      const typeText = write.type(child);
      code += typeText === undefined ? between.slice(0, between.lastIndexOf(":")) : between + typeText;
    } else if (lists.some((list) => list?.nodes.includes(child))) {
      const list = lists.find((candidate) => candidate?.nodes.includes(child));
      if (child !== list?.nodes[0]) return;
      code += between.slice(0, between.lastIndexOf("<")) + (list?.text ?? "");
      at = text.indexOf(">", list?.nodes.at(-1)?.end ?? child.end) + 1;
    } else if (child !== exclamationToken) code += between + write.code(child);
  });
  return code + text.slice(at, node.end);
}

/** Returns a list of types in angle brackets; empty text if one of them is left out. */
function keptList(
  nodes: readonly Node[] | undefined,
  write: PartWriter,
): { readonly nodes: readonly Node[]; readonly text: string } | undefined {
  if (!nodes || nodes.length === 0) return undefined;
  const texts = nodes.map((node) => write.type(node));
  return { nodes, text: texts.includes(undefined) ? "" : `<${texts.join(", ")}>` };
}

function isExport({ kind }: Node): boolean {
  return kind === SyntaxKind.ExportKeyword || kind === SyntaxKind.DefaultKeyword;
}
