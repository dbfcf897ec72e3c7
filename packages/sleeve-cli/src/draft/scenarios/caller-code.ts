import type { Program } from "../../compiler/program.ts";
import { aliasTarget } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  isIdentifier,
  isNewExpression,
  type Node,
  type SourceFile,
  SyntaxKind,
  type Type,
} from "../../compiler/typescript.ts";

/** The callers of a target, after they are moved, with what their names refer to. */
export class CallerCode {
  readonly #program: Program;
  readonly #paths: readonly string[];
  readonly #files = new Map<string, FileNames>();
  readonly #types = new Map<Node, Type | undefined>();
  readonly #typed = new Set<SourceFile>();
  #calls: ReadonlyMap<Node, readonly Node[]> | undefined;

  /** @param paths files that call functions of the callers, and the callers themselves */
  constructor(program: Program, paths: readonly string[]) {
    this.#program = program;
    this.#paths = paths;
  }

  sourceOf(path: string): SourceFile | undefined {
    return this.#program.sourceFile(path);
  }

  checkerOf(node: Node): Checker | undefined {
    return this.#program.checkerFor(node.getSourceFile().fileName);
  }

  typeOf(node: Node): Type | undefined {
    const source = node.getSourceFile();
    if (!this.#typed.has(source)) this.#readTypes(source);
    if (!this.#types.has(node)) this.#types.set(node, this.checkerOf(node)?.getTypeAtLocation(node));
    return this.#types.get(node);
  }

  /** Queries the types of a file's names, accesses and calls at once. */
  #readTypes(source: SourceFile): void {
    this.#typed.add(source);
    const nodes: Node[] = [];
    const visit = (node: Node): void => {
      if (TYPED.has(node.kind)) nodes.push(node);
      if (!DECLARING_TYPES.has(node.kind)) node.forEachChild(visit);
    };
    source.forEachChild(visit);
    const types = nodes.length > 0 ? (this.checkerOf(source)?.getTypeAtLocation(nodes) ?? []) : [];
    for (const [index, node] of nodes.entries()) this.#types.set(node, types[index]);
  }

  /** Returns the declaration of what a name refers to, following imports. */
  declarationOf(name: Node): Node | undefined {
    const path = name.getSourceFile().fileName;
    const names = this.#files.get(path) ?? new FileNames(name.getSourceFile(), this.checkerOf(name));
    this.#files.set(path, names);
    return names.declarationOf(name);
  }

  /** Returns the calls and constructions of a function, method or class. */
  callsOf(declaration: Node): readonly Node[] {
    this.#calls ??= this.#allCalls();
    return this.#calls.get(declaration) ?? [];
  }

  /** Returns the declaration of what a callee refers to; of a function in a variable, the function. */
  calledBy(callee: Node): Node | undefined {
    const name = isIdentifier(callee) ? callee : (callee as Node & { name?: Node }).name;
    const declaration = name && this.declarationOf(name);
    return (declaration as (Node & { initializer?: Node }) | undefined)?.initializer ?? declaration;
  }

  #allCalls(): ReadonlyMap<Node, readonly Node[]> {
    const calls = new Map<Node, Node[]>();
    for (const path of this.#paths) {
      const source = this.sourceOf(path);
      source?.forEachChild((statement) => this.#addCalls(statement, calls));
    }
    return calls;
  }

  #addCalls(node: Node, calls: Map<Node, Node[]>): void {
    if (node.kind === SyntaxKind.CallExpression || isNewExpression(node)) {
      const { expression } = node as Node & { expression: Node };
      const called = this.calledBy(expression);
      if (called) calls.set(called, [...(calls.get(called) ?? []), node]);
    }
    node.forEachChild((child) => this.#addCalls(child, calls));
  }
}

const TYPED: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.Identifier,
  SyntaxKind.PropertyAccessExpression,
  SyntaxKind.ElementAccessExpression,
  SyntaxKind.CallExpression,
]);

const DECLARING_TYPES: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.ImportDeclaration,
  SyntaxKind.InterfaceDeclaration,
  SyntaxKind.TypeAliasDeclaration,
]);

/** The declarations that the names of a file refer to. */
class FileNames {
  readonly #checker: Checker | undefined;
  readonly #symbols = new Map<Node, CompilerSymbol | undefined>();
  readonly #declarations = new Map<Node, Node | undefined>();

  constructor(source: SourceFile, checker: Checker | undefined) {
    this.#checker = checker;
    const names: Node[] = [];
    const visit = (node: Node): void => {
      if (isIdentifier(node) || node.kind === SyntaxKind.PrivateIdentifier) names.push(node);
      node.forEachChild(visit);
    };
    source.forEachChild(visit);
    const symbols = names.length > 0 ? (checker?.getSymbolAtLocation(names) ?? []) : [];
    for (const [index, name] of names.entries()) this.#symbols.set(name, symbols[index]);
  }

  declarationOf(name: Node): Node | undefined {
    if (!this.#declarations.has(name)) this.#declarations.set(name, this.#declarationOf(name));
    return this.#declarations.get(name);
  }

  #declarationOf(name: Node): Node | undefined {
    const checker = this.#checker;
    if (!checker) return undefined;
    const symbol =
      name.parent.kind === SyntaxKind.ShorthandPropertyAssignment
        ? checker.getShorthandAssignmentValueSymbol(name.parent)
        : this.#symbols.get(name);
    if (!symbol) return undefined;
    const { valueDeclaration, declarations } = aliasTarget(checker, symbol);
    return (valueDeclaration ?? declarations[0])?.resolve();
  }
}
