/** A node of the syntax tree of TypeScript, as far as it is read here (ESTree, with nodes for types). */
export interface SyntaxNode {
  readonly type: string;
  readonly start: number;
  readonly end: number;
  readonly [key: string]: unknown;
}

export function isNode(value: unknown): value is SyntaxNode {
  return typeof value === "object" && value !== null && typeof (value as SyntaxNode).type === "string";
}

/** Returns a property of a node that is a node. */
export function nodeAt(node: SyntaxNode, key: string): SyntaxNode | undefined {
  const value = node[key];
  return isNode(value) ? value : undefined;
}

/** Returns the nodes of a property that is a list; empty if there is none. */
export function nodesAt(node: SyntaxNode | undefined, key: string): readonly SyntaxNode[] {
  const value = node?.[key];
  return Array.isArray(value) ? value.filter(isNode) : [];
}

/** Returns all child nodes, in the order of their properties. */
export function childrenOf(node: SyntaxNode): readonly SyntaxNode[] {
  return Object.values(node).flatMap((value: unknown) =>
    (Array.isArray(value) ? value : [value]).filter(isNode),
  );
}
