import { modifiersOf, nameOf } from "../compiler/syntax.ts";
import { type CompilerSymbol, ModifierFlags, type Node, SyntaxKind } from "../compiler/typescript.ts";
import type { ChangedExports, SymbolPair } from "./changed-exports.ts";

/** What of an export has a list of parameters. */
export type Callable = "itself" | "constructor" | { readonly member: string };

/** A call, construct or method signature without overloads. */
interface ParameterList {
  readonly callable: Callable;
  readonly declaration: Node;
  readonly text: string;
}

/**
 * Returns which functions, constructors and methods of an export take other parameters than before. Assignability
 * alone does not find these: it accepts methods that require more of their arguments, and functions without a
 * parameter that callers pass.
 */
export function changedParameterLists(
  { old, found }: SymbolPair,
  changes: ChangedExports,
): readonly Callable[] {
  const before = parameterListsOf(old);
  return [...parameterListsOf(found)].flatMap(([key, { callable, declaration, text }]) => {
    const was = before.get(key);
    if (!was) return [];
    const isSame = was.text === text && !changes.mentionsChanged(was.declaration, declaration);
    return isSame ? [] : [callable];
  });
}

function parameterListsOf(symbol: CompilerSymbol): ReadonlyMap<string, ParameterList> {
  const lists = new Map<string, ParameterList>();
  const overloaded = new Set<string>();
  const add = (key: string, callable: Callable, declaration: Node): void => {
    if (lists.has(key)) overloaded.add(key);
    lists.set(key, { callable, declaration, text: parameterText(declaration) });
  };
  for (const handle of symbol.declarations) {
    const declaration = handle.resolve();
    if (!declaration) continue;
    if (declaration.kind === SyntaxKind.FunctionDeclaration) add("itself", "itself", declaration);
    for (const member of membersOf(declaration)) {
      const isHidden = (modifiersOf(member) & (ModifierFlags.Static | ModifierFlags.Private)) !== 0;
      const name = nameOf(member)?.text;
      if (member.kind === SyntaxKind.Constructor) add("constructor", "constructor", member);
      else if (METHODS.has(member.kind) && name !== undefined && !isHidden)
        add(`member ${name}`, { member: name }, member);
    }
  }
  for (const key of overloaded) lists.delete(key);
  return lists;
}

const METHODS: ReadonlySet<SyntaxKind> = new Set([SyntaxKind.MethodSignature, SyntaxKind.MethodDeclaration]);

function membersOf(declaration: Node): readonly Node[] {
  const { members, type } = declaration as Node & {
    readonly members?: readonly Node[];
    readonly type?: Node & { readonly members?: readonly Node[] };
  };
  return members ?? (declaration.kind === SyntaxKind.TypeAliasDeclaration ? type?.members : undefined) ?? [];
}

function parameterText(declaration: Node): string {
  const { parameters = [] } = declaration as Node & { readonly parameters?: readonly Node[] };
  const source = declaration.getSourceFile();
  return parameters
    .map((parameter) => source.text.slice(parameter.getStart(source), parameter.end))
    .join(", ")
    .replace(/\s+/g, " ");
}
