import {
  type Checker,
  type CompilerSymbol,
  type Identifier,
  ModifierFlags,
  type Node,
  type SourceFile,
  SymbolFlags,
  SyntaxKind,
  type Type,
} from "./typescript.ts";

export type { Checker, CompilerSymbol, Node, Type };

/** A declaration that other files can see. */
export interface ExportedDeclaration {
  readonly name: string;
  readonly offset: number;
}

/** Returns the symbol an alias finally resolves to. */
export function aliasTarget(checker: Checker, symbol: CompilerSymbol): CompilerSymbol {
  return (symbol.flags & SymbolFlags.Alias) !== 0 ? checker.getAliasedSymbol(symbol) : symbol;
}

/** Returns the symbol an alias finally resolves to; `undefined` if it resolves to nothing. */
export function resolvedSymbol(
  checker: Checker,
  symbol: CompilerSymbol | undefined,
): CompilerSymbol | undefined {
  const target = symbol && aliasTarget(checker, symbol);
  return target && !checker.isUnknownSymbol(target) ? target : undefined;
}

/** Whether a symbol exists at run time. */
export function isValueSymbol({ flags }: CompilerSymbol): boolean {
  return (flags & SymbolFlags.Value) !== 0;
}

export function isClassSymbol({ flags }: CompilerSymbol): boolean {
  return (flags & SymbolFlags.Class) !== 0;
}

export function isIdentifier(node: Node): node is Identifier {
  return node.kind === SyntaxKind.Identifier;
}

type Call = Node & {
  expression?: Node & { text?: string };
  arguments?: readonly (Node & { text?: string })[];
};

/** Returns the specifier of the module that a declaration, or its parent, imports or requires. */
export function specifierOf(declaration: Node): string | undefined {
  for (let node: Node | undefined = declaration; node; node = node.parent) {
    const { moduleSpecifier, initializer } = node as Node & {
      moduleSpecifier?: Call & { text?: string };
      initializer?: Call;
    };
    if (moduleSpecifier) return moduleSpecifier.text;
    if (initializer?.expression?.text === "require") return initializer.arguments?.[0]?.text;
  }
  return undefined;
}

/** Returns names exported separately from their declarations: `export { a }`, `export default a`. */
export function exportedNamesOf(source: SourceFile): ReadonlySet<string> {
  const names = new Set<string>();
  for (const statement of source.statements) {
    const isList =
      statement.kind === SyntaxKind.ExportDeclaration &&
      !("moduleSpecifier" in statement && statement.moduleSpecifier);
    if (!isList && statement.kind !== SyntaxKind.ExportAssignment) continue;
    const visit = (node: Node): void => {
      if (isIdentifier(node)) names.add(node.text);
      node.forEachChild(visit);
    };
    statement.forEachChild(visit);
  }
  return names;
}

/** Returns the exported declaration whose signature, not body, contains a node. */
export function exportedDeclarationOver(
  node: Node,
  source: SourceFile,
  exported: ReadonlySet<string>,
): ExportedDeclaration | undefined {
  let member: string | undefined;
  let declared: Identifier | undefined;
  let child = node;
  for (
    let parent = node.parent;
    parent.kind !== SyntaxKind.SourceFile;
    child = parent, parent = parent.parent
  ) {
    if (isHidden(parent, child)) return undefined;
    const name = nameOf(parent);
    if (isMemberDeclaration(parent)) member ??= name?.text;
    else if (name) declared = name;
  }
  const isExported = hasExportModifier(child) || (declared !== undefined && exported.has(declared.text));
  if (!isExported) return undefined;
  const name = [declared?.text ?? "default", member].filter((part) => part !== undefined).join(".");
  return { name, offset: (declared ?? child).getStart(source) };
}

/** Returns the name of the exported type alias that contains a node. */
export function exportedAliasOver(node: Node): Identifier | undefined {
  for (let at: Node | undefined = node; at; at = at.parent)
    if (at.kind === SyntaxKind.TypeAliasDeclaration)
      return (modifiersOf(at) & ModifierFlags.Export) !== 0 ? nameOf(at) : undefined;
  return undefined;
}

/** Whether `child` is a part of `parent` that its clients cannot see. */
function isHidden(parent: Node, child: Node): boolean {
  const { body, initializer } = parent as Node & { body?: Node; initializer?: Node };
  if (child === body && parent.kind !== SyntaxKind.ModuleDeclaration) return true;
  if (child === initializer && !isFunction(child)) return true;
  if (!isMemberDeclaration(parent)) return false;
  const isPrivateName = (parent as Node & { name?: Node }).name?.kind === SyntaxKind.PrivateIdentifier;
  return isPrivateName || (modifiersOf(parent) & ModifierFlags.Private) !== 0;
}

export function isFunction(node: Node): boolean {
  return node.kind === SyntaxKind.ArrowFunction || node.kind === SyntaxKind.FunctionExpression;
}

function isMemberDeclaration(node: Node): boolean {
  switch (node.kind) {
    case SyntaxKind.PropertyDeclaration:
    case SyntaxKind.PropertySignature:
    case SyntaxKind.MethodDeclaration:
    case SyntaxKind.MethodSignature:
    case SyntaxKind.GetAccessor:
    case SyntaxKind.SetAccessor:
      return true;
    default:
      return false;
  }
}

export function nameOf(node: Node): Identifier | undefined {
  const { name } = node as Node & { name?: Node };
  return name && isIdentifier(name) ? name : undefined;
}

/** Returns the name in a declaration, after modifiers, decorators and comments. */
export function nameOfDeclaration(node: Node): Node | undefined {
  if (!isMemberDeclaration(node) && !DECLARATIONS.has(node.kind)) return undefined;
  return (node as Node & { name?: Node }).name;
}

const DECLARATIONS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.PropertyAssignment,
  SyntaxKind.ShorthandPropertyAssignment,
  SyntaxKind.ClassDeclaration,
  SyntaxKind.FunctionDeclaration,
  SyntaxKind.VariableDeclaration,
]);

function hasExportModifier(node: Node): boolean {
  return (modifiersOf(node) & ModifierFlags.Export) !== 0 || node.kind === SyntaxKind.ExportAssignment;
}

export function modifiersOf(node: Node): number {
  const { modifierFlags, modifiers } = node as Node & { modifierFlags?: number; modifiers?: readonly Node[] };
  if (modifierFlags !== undefined) return modifierFlags;
  return (modifiers ?? []).reduce((flags, { kind }) => flags | (FLAG_OF_MODIFIER[kind] ?? 0), 0);
}

export function isAbstract(node: Node): boolean {
  return (modifiersOf(node) & ModifierFlags.Abstract) !== 0;
}

const FLAG_OF_MODIFIER: Readonly<Record<number, number>> = {
  [SyntaxKind.ExportKeyword]: ModifierFlags.Export,
  [SyntaxKind.PrivateKeyword]: ModifierFlags.Private,
  [SyntaxKind.ProtectedKeyword]: ModifierFlags.Protected,
  [SyntaxKind.ReadonlyKeyword]: ModifierFlags.Readonly,
  [SyntaxKind.StaticKeyword]: ModifierFlags.Static,
  [SyntaxKind.AbstractKeyword]: ModifierFlags.Abstract,
};

/** Returns the `export =` of a module. The exports that the checker lists are those of its value. */
export function exportAssignmentOf(module: CompilerSymbol): CompilerSymbol | undefined {
  return [...module.getExports()].find(([name]) => String(name) === "export=")?.[1];
}
