import { type Node, SyntaxKind } from "../compiler/typescript.ts";

/**
 * Whether a type is one of those that the compiler writes into the metadata of a decorated declaration: the type of a
 * property, of a parameter, or of a result. Type arguments and elements of arrays are not.
 */
export function isDecoratedType(reference: Node): boolean {
  let type = reference;
  while (!IS_TYPE_REFERENCE.has(type.kind) && PART_OF_NAME.has(type.parent.kind)) type = type.parent;
  while (PART_OF_TYPE.has(type.parent.kind)) type = type.parent;
  const declaration = type.parent;
  if ((declaration as Node & { type?: Node }).type !== type) return false;
  switch (declaration.kind) {
    case SyntaxKind.PropertyDeclaration:
    case SyntaxKind.MethodDeclaration:
    case SyntaxKind.GetAccessor:
    case SyntaxKind.SetAccessor:
      return isDecorated(declaration);
    case SyntaxKind.Parameter:
      return isDecorated(declaration.parent);
    default:
      return false;
  }
}

const IS_TYPE_REFERENCE: ReadonlySet<SyntaxKind> = new Set([SyntaxKind.TypeReference]);
const PART_OF_NAME: ReadonlySet<SyntaxKind> = new Set([SyntaxKind.QualifiedName, SyntaxKind.TypeReference]);
/** Of a union, the compiler writes the part that is not `null` or `undefined`. */
const PART_OF_TYPE: ReadonlySet<SyntaxKind> = new Set([SyntaxKind.UnionType, SyntaxKind.ParenthesizedType]);

/** Whether a member, one of its parameters or, for a constructor, its class has a decorator. */
function isDecorated(member: Node): boolean {
  const { parameters = [] } = member as Node & { parameters?: readonly Node[] };
  const isConstructor = member.kind === SyntaxKind.Constructor;
  return [member, ...parameters, ...(isConstructor ? [member.parent] : [])].some(hasDecorator);
}

function hasDecorator(node: Node): boolean {
  const { modifiers = [] } = node as Node & { modifiers?: readonly Node[] };
  return modifiers.some(({ kind }) => kind === SyntaxKind.Decorator);
}
