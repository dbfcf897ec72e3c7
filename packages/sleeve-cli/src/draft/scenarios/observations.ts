import {
  isCallExpression,
  isIdentifier,
  isPropertyAccessExpression,
  type Node,
  SyntaxKind,
  type Type,
} from "../../compiler/typescript.ts";
import type { CallerCode } from "./caller-code.ts";
import { projected } from "./projection.ts";
import { type Needs, NotSelfContained, noNeeds, type ScenarioCode } from "./scenario-code.ts";
import { functionNameOf, isFunctionNode } from "./syntax-of-functions.ts";
import { type Scope, type ValueFlow, withoutAssertion } from "./value-flow.ts";

/** A use of the target that no scenario has, and why. */
export interface LeftOutUse {
  readonly member: string;
  readonly why: string;
}

export interface ObservedTarget {
  readonly targetPath: string;
  readonly adapterPath: string;
  readonly object: string;
  /** Returns why a use is not repeated, because of its effects; `undefined` if it may be. */
  readonly effectOf: (use: {
    readonly members: readonly string[];
    readonly isAsync: boolean;
  }) => string | undefined;
}

/** Number of calls of our own functions within each other that are read where they are called. */
const MAX_CALLS = 4;

/** Adds the uses of a target in a function, or at the top of a file, to a scenario. */
export class Observations {
  readonly #code: CallerCode;
  readonly #flow: ValueFlow;
  readonly #target: ObservedTarget;
  readonly #scenario: ScenarioCode;
  readonly leftOut: LeftOutUse[] = [];
  /** Functions of our own that were read where they are called. */
  readonly called = new Set<Node>();
  /** The functions that are being read, the innermost last. */
  readonly #containers: Node[] = [];

  constructor(code: CallerCode, flow: ValueFlow, target: ObservedTarget, scenario: ScenarioCode) {
    this.#code = code;
    this.#flow = flow;
    this.#target = target;
    this.#scenario = scenario;
  }

  /** Reads a function or a file, and functions of our own where they are called, but no other functions within it. */
  read(container: Node, scope: Scope): void {
    this.#containers.push(container);
    const { parameters = [] } = container as Node & { parameters?: readonly Node[] };
    container.forEachChild((child) => {
      if (!parameters.includes(child)) this.#visit(child, scope);
    });
    this.#containers.pop();
  }

  #visit(node: Node, scope: Scope): void {
    if (isFunctionNode(node) || node.kind === SyntaxKind.ImportDeclaration) return;
    if (node.kind === SyntaxKind.TryStatement) {
      this.#visitTry(node, scope);
      return;
    }
    if (this.#isLeaf(node) && this.#observe(node, scope)) return;
    node.forEachChild((child) => this.#visit(child, scope));
    if (isCallExpression(node)) this.#readCalled(node, scope);
  }

  /** Reads a function of our own with the arguments of a call. */
  #readCalled(call: Node & { readonly expression: Node }, scope: Scope): void {
    const called = this.#code.calledBy(call.expression);
    const { body } = (called ?? {}) as { body?: Node };
    if (!called || !body || !isFunctionNode(called) || this.#containers.includes(called)) return;
    if (this.#containers.length > MAX_CALLS) return;
    const inner = this.#flow.scopeOfCall(called, call, scope);
    if (!inner) return;
    this.called.add(called);
    this.read(called, inner);
  }

  /** What the last use in a `try` throws is the error that its `catch` holds. */
  #visitTry(node: Node, scope: Scope): void {
    const { tryBlock, catchClause, finallyBlock } = node as Node & {
      tryBlock: Node;
      catchClause?: Node & { variableDeclaration?: Node; block: Node };
      finallyBlock?: Node;
    };
    const before = new Set(this.#scenario.lines);
    this.#visit(tryBlock, scope);
    const last = this.#scenario.lines.findLast((line) => !before.has(line) && line.kind !== "constant");
    if (catchClause) {
      const { variableDeclaration, block } = catchClause;
      if (variableDeclaration && last) this.#scenario.setError(variableDeclaration, last);
      this.#visit(block, scope);
    }
    if (finallyBlock) this.#visit(finallyBlock, scope);
  }

  /** Whether a node is the target's object, a value of one of its types, or a call of ours that returns one. */
  #isLeaf(node: Node): boolean {
    if (isCallExpression(node) && isIdentifier(node.expression)) return this.#isOfTarget(node);
    if (node.kind !== SyntaxKind.PropertyAccessExpression && !isIdentifier(node)) return false;
    if (isIdentifier(node) && !isValue(node)) return false;
    if (isPropertyAccessExpression(node) && node.expression.kind !== SyntaxKind.ThisKeyword) return false;
    return this.#isOfTarget(node);
  }

  #isOfTarget(node: Node): boolean {
    const type = this.#code.typeOf(node);
    return type !== undefined && this.#isTargetType(type);
  }

  #isTargetType(type: Type): boolean {
    if (type.isUnionType()) return type.getTypes().some((part) => this.#isTargetType(part));
    const symbol = type.getAliasSymbol() ?? type.getSymbol();
    return symbol?.declarations.some(({ path }) => path === this.#target.targetPath) === true;
  }

  /** Adds the longest use that starts at a node. Returns whether there is one. */
  #observe(leaf: Node, scope: Scope): boolean {
    const uses = usesFrom(leaf);
    const [longest] = uses;
    let why: string | undefined;
    for (const use of uses) {
      try {
        this.#scenario.attempt(() => this.#add(use, leaf, scope));
        if (use !== longest && why !== undefined) this.#leaveOut(longest ?? use, why);
        return true;
      } catch (error) {
        if (!(error instanceof NotSelfContained)) throw error;
        why ??= error.message;
      }
    }
    if (longest && why !== undefined) this.#leaveOut(longest, why);
    return false;
  }

  #leaveOut({ members }: Use, why: string): void {
    const member = members.join(".");
    if (!this.leftOut.some((use) => use.member === member)) this.leftOut.push({ member, why });
  }

  #add({ node, members }: Use, leaf: Node, scope: Scope): void {
    const checker = this.#code.checkerOf(node);
    const type = this.#code.typeOf(node);
    if (!checker || !type) throw new NotSelfContained("its type is unknown");
    const [promised] = isPromise(type) && type.isTypeReference() ? checker.getTypeArguments(type) : [];
    const isAsync = promised !== undefined || node.kind === SyntaxKind.AwaitExpression;
    const effect = this.#target.effectOf({ members, isAsync });
    if (effect !== undefined) throw new NotSelfContained(effect);
    const needs = noNeeds();
    const text = this.#scenario.codeOf({ node, scope }, needs);
    if (promised) needs.hasAwait = true;
    if (!needs.usesTarget && needs.constants.size === 0)
      throw new NotSelfContained("it does not use the target");
    const use = promised ? `await ${text}` : text;
    const guard = this.#guardOf(leaf, scope, needs);
    const line = {
      use,
      code: guard === undefined ? use : `${guard} && ${use}`,
      needs,
      members,
      isHandled: isInTry(node),
      origin: functionNameOf(this.#containers.at(-1) ?? node),
      file: this.#containers.at(-1)?.getSourceFile().fileName ?? "",
    };
    const projectedFrom = (code: string) =>
      projected(checker, promised ?? type, code, (path) => path === this.#target.targetPath);
    const code = isDiscarded(node) ? undefined : projectedFrom(line.code);
    const declaration = boundDeclaration(node);
    if (code === undefined) {
      if (isDiscarded(node)) this.#scenario.add({ ...line, kind: "use" });
    } else if (code !== line.code && (declaration || this.#isPassedToTarget(node))) {
      // The fields of a constant are compared where they are read.
    } else if (!declaration && code === line.code) this.#scenario.add({ ...line, kind: "compared" });
    else {
      const constantNeeds: Needs = { ...noNeeds(), usesTarget: true };
      const name = declaration?.name.getText() ?? "result";
      const constant =
        declaration && !promised
          ? this.#scenario.constantFor(name, { node, scope }, constantNeeds)
          : this.#scenario.addConstant(name, line.code, needs);
      constantNeeds.constants.add(constant);
      const shown = projectedFrom(constant) ?? constant;
      this.#scenario.add({ ...line, kind: "compared", code: shown, needs: constantNeeds });
    }
  }

  /** Whether a value is an argument of a call of the target, or a part of one. */
  #isPassedToTarget(node: Node): boolean {
    for (let at = node; at.parent && !/Statement$/.test(SyntaxKind[at.parent.kind] ?? ""); at = at.parent) {
      const { expression } = at.parent as Node & { expression?: Node };
      if (!isCallExpression(at.parent) || expression === at) continue;
      let root: Node = at.parent.expression;
      while (isPropertyAccessExpression(root) || isCallExpression(root)) root = root.expression;
      if (this.#isOfTarget(root)) return true;
    }
    return false;
  }

  /** Returns the call of a type guard on which the type of a caught error depends. */
  #guardOf(leaf: Node, scope: Scope, needs: Needs): string | undefined {
    if (!isIdentifier(leaf)) return undefined;
    const guard = guardsOver(leaf, this.#containers.at(-1)).find((call) => this.#isGuardOf(call, leaf.text));
    return guard && this.#scenario.codeOf({ node: guard, scope }, needs);
  }

  #isGuardOf(call: Node, name: string): boolean {
    if (!isCallExpression(call) || !isPropertyAccessExpression(call.expression)) return false;
    const isOfName = call.arguments.some((argument) => argument.getText() === name);
    return isOfName && this.#isOfTarget(call.expression.expression);
  }
}

/** Returns the calls in the conditions that hold where a node stands. */
function guardsOver(node: Node, container: Node | undefined): readonly Node[] {
  const conditions: Node[] = [];
  for (let at = node; at.parent && at !== container; at = at.parent) {
    const { parent } = at as Node & {
      parent: Node & {
        expression?: Node;
        thenStatement?: Node;
        condition?: Node;
        whenTrue?: Node;
        left?: Node;
        right?: Node;
        statements?: readonly Node[];
      };
    };
    if (parent.thenStatement === at && parent.expression) conditions.push(parent.expression);
    if (parent.whenTrue === at && parent.condition) conditions.push(parent.condition);
    if (parent.right === at && parent.left) conditions.push(parent.left);
    // After `if (!isRefusal(error)) throw error;` the guard holds.
    for (const statement of parent.statements?.slice(0, parent.statements.indexOf(at)) ?? []) {
      const { expression, elseStatement } = statement as Node & { expression?: Node; elseStatement?: Node };
      const isIf = statement.kind === SyntaxKind.IfStatement && !elseStatement;
      if (isIf && expression?.kind === SyntaxKind.PrefixUnaryExpression) conditions.push(expression);
    }
  }
  return conditions.flatMap(callsIn);
}

function callsIn(node: Node): readonly Node[] {
  const calls: Node[] = isCallExpression(node) ? [node] : [];
  node.forEachChild((child) => {
    calls.push(...callsIn(child));
  });
  return calls;
}

/** An expression that uses the target, and the members that it calls or reads, in order. */
interface Use {
  readonly node: Node;
  readonly members: readonly string[];
}

/** Returns the uses that start at a node: `a.b().c`, `a.b()`; the longest first. */
function usesFrom(leaf: Node): readonly Use[] {
  const uses: Use[] = [];
  let members: readonly string[] = [];
  for (let node = leaf; ; ) {
    const { parent } = node;
    const isWithin = (parent as Node & { expression?: Node }).expression === node;
    if (isPropertyAccessExpression(parent) && isWithin) {
      members = [...members, parent.name.text];
      const isCalled = isCallExpression(parent.parent) && parent.parent.expression === parent;
      node = isCalled ? parent.parent : parent;
      uses.unshift({ node, members });
    } else if ((isCallExpression(parent) || parent.kind === SyntaxKind.NewExpression) && isWithin) {
      if (members.length === 0) members = [leaf.getText()];
      node = parent;
      uses.unshift({ node, members });
    } else if (parent.kind === SyntaxKind.ElementAccessExpression && isWithin && uses.length > 0) {
      node = parent;
      uses.unshift({ node, members });
    } else if (isWithin && parent.kind === SyntaxKind.AwaitExpression && uses.length > 0) {
      node = parent;
      uses.unshift({ node, members });
    } else if (withoutAssertion(parent) !== parent && isWithin) {
      node = parent;
    } else return uses;
  }
}

function isPromise(type: Type): boolean {
  return /^Promise(Like)?$/.test(type.getSymbol()?.name ?? "");
}

/** Whether an identifier is an expression, and no name of a member or declaration. */
function isValue(node: Node): boolean {
  const { name, propertyName } = node.parent as Node & { name?: Node; propertyName?: Node };
  return name !== node && propertyName !== node;
}

/** Returns the outermost expression with the value of a node. */
function outermost(node: Node): Node {
  let at = node;
  while (withoutAssertion(at.parent) !== at.parent || at.parent.kind === SyntaxKind.AwaitExpression)
    at = at.parent;
  return at;
}

function isDiscarded(node: Node): boolean {
  return outermost(node).parent.kind === SyntaxKind.ExpressionStatement;
}

/** Returns the declaration of the variable that a value is assigned to. */
function boundDeclaration(node: Node): (Node & { readonly name: Node }) | undefined {
  const value = outermost(node);
  const declaration = value.parent as Node & { readonly name: Node; readonly initializer?: Node };
  const isVariable = declaration.kind === SyntaxKind.VariableDeclaration && declaration.initializer === value;
  return isVariable && isIdentifier(declaration.name) ? declaration : undefined;
}

function isInTry(node: Node): boolean {
  for (let at = node; at.parent; at = at.parent) {
    const { kind, tryBlock, catchClause } = at.parent as Node & { tryBlock?: Node; catchClause?: Node };
    if (kind === SyntaxKind.TryStatement && catchClause && tryBlock === at) return true;
  }
  return false;
}
