import {
  type Checker,
  isCallExpression,
  isIdentifier,
  isPropertyAccessExpression,
  type Node,
  SyntaxKind,
  type Type,
} from "../../compiler/typescript.ts";
import type { CallerCode } from "./caller-code.ts";
import { functionNameOf, isFunctionNode } from "./caller-syntax.ts";
import { conditionsOver, mentions } from "./conditions.ts";
import { type ProjectedTarget, projected } from "./projection.ts";
import type { ScenarioCode } from "./scenario-code.ts";
import { type Needs, NotSelfContained, noNeeds, type ScenarioLine } from "./scenario-line.ts";
import {
  type BoundDeclaration,
  boundDeclaration,
  isDiscarded,
  isPromise,
  isShown,
  isUntyped,
  isValue,
  type Use,
  usesFrom,
} from "./target-uses.ts";
import type { Expression, Scope, ValueFlow } from "./value-flow.ts";

/** A use of the target that no scenario has, and why. */
export interface LeftOutUse {
  readonly node: Node;
  readonly member: string;
  readonly why: string;
}

export interface ObservedTarget extends ProjectedTarget {
  readonly adapterPath: string;
  readonly object: string;
  /** Whether a file declares types of the outside module, which callers still use where the target has aliases. */
  readonly isOfModule: (path: string) => boolean;
  /** Returns why a use is not repeated, because of its effects; `undefined` if it may be. */
  readonly effectOf: (use: {
    readonly members: readonly string[];
    readonly isAsync: boolean;
  }) => string | undefined;
}

/** Number of calls of our own functions within each other that are read where they are called. */
const MAX_CALLS = 4;

/** Number of items of an array that are read. */
const MAX_ITEMS = 3;

/** Number of nodes that are read for one scenario. Functions that call each other could be read without end. */
const MAX_NODES = 20_000;

/** Adds the uses of a target in a function, or at the top of a file, to a scenario. */
export class Observations {
  readonly #code: CallerCode;
  readonly #flow: ValueFlow;
  readonly #target: ObservedTarget;
  readonly #scenario: ScenarioCode;
  readonly leftOut: LeftOutUse[] = [];
  /** Functions of our own that were read where they are called. */
  readonly called: Set<Node> = new Set();
  #count = 0;
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
    this.#count += 1;
    if (this.#count > MAX_NODES) return;
    if (isFunctionNode(node)) {
      this.#readItems(node, scope);
      return;
    }
    if (node.kind === SyntaxKind.ImportDeclaration) return;
    if (node.kind === SyntaxKind.ForOfStatement && this.#readLoop(node, scope)) return;
    if (node.kind === SyntaxKind.TryStatement) {
      this.#visitTry(node, scope);
      return;
    }
    if (this.#isLeaf(node) && this.#observe(node, scope)) return;
    node.forEachChild((child) => this.#visit(child, scope));
    if (isCallExpression(node)) this.#readCalled(node, scope);
  }

  /** Reads a function that a method of an array calls, with items that are written out. */
  #readItems(called: Node, scope: Scope): void {
    if (this.#containers.length > MAX_CALLS) return;
    for (const inner of this.#flow.scopesOfItems(called, scope).slice(0, MAX_ITEMS)) {
      this.called.add(called);
      this.read(called, inner);
    }
  }

  #readLoop(loop: Node, scope: Scope): boolean {
    const scopes = this.#flow.scopesOfItems(loop, scope).slice(0, MAX_ITEMS);
    const { statement } = loop as Node & { statement: Node };
    for (const inner of scopes) this.#visit(statement, inner);
    return scopes.length > 0;
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
    const variable = catchClause?.variableDeclaration;
    if (catchClause) this.#scenario.handling(variable, () => this.#visit(tryBlock, scope));
    else this.#visit(tryBlock, scope);
    if (catchClause) this.#visit(catchClause.block, scope);
    if (finallyBlock) this.#visit(finallyBlock, scope);
  }

  /** Whether a node is the target's object, or a value of one of its types that comes from our own code. */
  #isLeaf(node: Node): boolean {
    if (isCallExpression(node))
      return isIdentifier(node.expression) && this.#isOfTarget(node) && !this.#isOfTarget(node.expression);
    if (isIdentifier(node)) return isValue(node) && this.#isOfTarget(node);
    const isAccess = isPropertyAccessExpression(node) || node.kind === SyntaxKind.ElementAccessExpression;
    if (!isAccess || !this.#isOfTarget(node)) return false;
    return !this.#isOfTarget((node as Node & { expression: Node }).expression);
  }

  #isOfTarget(node: Node): boolean {
    const type = this.#code.typeOf(node);
    return type !== undefined && this.#isTargetType(type);
  }

  #isTargetType(type: Type): boolean {
    if (type.isUnionType()) return type.getTypes().some((part) => this.#isTargetType(part));
    const symbol = type.getAliasSymbol() ?? type.getSymbol();
    const { targetPath, isOfModule } = this.#target;
    return symbol?.declarations.some(({ path }) => path === targetPath || isOfModule(path)) === true;
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

  #leaveOut({ node, members }: Use, why: string): void {
    const member = members.join(".");
    if (!this.leftOut.some((use) => use.member === member)) this.leftOut.push({ node, member, why });
  }

  /** Adds a use to the scenario, with the part of its result that the target declares. */
  #add(use: Use, leaf: Node, scope: Scope): void {
    const { node } = use;
    const { checker, type, isAwaited } = this.#resultOf(use);
    const line = this.#lineOf(use, leaf, scope, isAwaited);
    const projectedFrom = (code: string) => projected(checker, type, code, this.#target);
    if (isDiscarded(node)) {
      this.#scenario.add({ ...line, kind: "use" });
      return;
    }
    const code = isUntyped(type) && !isShown(node) ? undefined : projectedFrom(line.code);
    const declaration = boundDeclaration(node);
    if (declaration) {
      const constant = this.#constantAt(declaration, { node, scope }, line, isAwaited);
      // Fields are compared where they are read; those of items are read in loops and callbacks.
      const shown = code === line.code || isList(checker, type) ? projectedFrom(constant.code) : undefined;
      if (code !== undefined && shown !== undefined)
        this.#scenario.add({ ...line, ...constant, kind: "compared", code: shown });
    } else if (code === line.code) this.#scenario.add({ ...line, kind: "compared" });
    else if (code !== undefined && !this.#isPassedToTarget(node)) {
      // The value is repeated for each of its fields.
      const name = this.#scenario.addConstant("result", line.code, line.needs);
      const shown = { code: projectedFrom(name) ?? name, needs: needing(name) };
      this.#scenario.add({ ...line, kind: "compared", ...shown });
    }
  }

  /** Returns the type of what a use gives, and whether that is promised and must be awaited. */
  #resultOf({ node, members }: Use): {
    readonly checker: Checker;
    readonly type: Type;
    readonly isAwaited: boolean;
  } {
    const checker = this.#code.checkerOf(node);
    const type = this.#code.typeOf(node);
    if (!checker || !type) throw new NotSelfContained("its type is unknown");
    const [promised] = isPromise(type) && type.isTypeReference() ? checker.getTypeArguments(type) : [];
    const isAsync = promised !== undefined || node.kind === SyntaxKind.AwaitExpression;
    const effect = this.#target.effectOf({ members, isAsync });
    if (effect !== undefined) throw new NotSelfContained(effect);
    return { checker, type: promised ?? type, isAwaited: promised !== undefined };
  }

  #lineOf(
    { node, members }: Use,
    leaf: Node,
    scope: Scope,
    isAwaited: boolean,
  ): Omit<ScenarioLine, "kind" | "isHandled"> {
    const needs = noNeeds();
    const text = this.#scenario.codeOf({ node, scope }, needs);
    needs.hasAwait ||= isAwaited;
    if (!needs.usesTarget && needs.constants.size === 0)
      throw new NotSelfContained("it does not use the target");
    const use = isAwaited ? `await ${text}` : text;
    const guard = this.#guardOf(leaf, scope, needs);
    const container = this.#containers.at(-1) ?? node;
    return {
      use,
      useNeeds: needs,
      code: guard === undefined ? use : `${guard} && ${use}`,
      needs,
      members,
      origin: functionNameOf(container),
      file: container.getSourceFile().fileName,
    };
  }

  /** Adds the constant that a caller declares, where it declares it. */
  #constantAt(
    declaration: BoundDeclaration,
    { node, scope }: Expression,
    line: Pick<ScenarioLine, "code" | "needs">,
    isPromise: boolean,
  ): Pick<ScenarioLine, "code" | "needs"> {
    const name = declaration.name.getText();
    const { initializer = node, type } = declaration;
    const constant = isPromise
      ? this.#scenario.addConstant(name, line.code, line.needs)
      : this.#scenario.constantFor(name, { node: initializer, scope }, noNeeds(), type);
    return { code: constant, needs: needing(constant) };
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

  /** Returns the condition under which a name has the type that it has where it stands. */
  #guardOf(leaf: Node, scope: Scope, needs: Needs): string | undefined {
    if (!isIdentifier(leaf) || !this.#isNarrowed(leaf)) return undefined;
    const conditions = conditionsOver(leaf, this.#containers.at(-1));
    const condition = conditions.find(({ node }) => mentions(node, leaf.text));
    if (!condition) return undefined;
    const code = this.#scenario.codeOf({ node: condition.node, scope }, needs);
    if (!condition.holds) return `!(${code})`;
    return JOINED.has(condition.node.kind) ? `(${code})` : code;
  }

  #isNarrowed(name: Node): boolean {
    const declaration = this.#code.declarationOf(name) as (Node & { name?: Node }) | undefined;
    if (!declaration?.name || !isIdentifier(declaration.name)) return false;
    return this.#code.typeOf(declaration.name)?.id !== this.#code.typeOf(name)?.id;
  }
}

/** Conditions that may bind less than `&&`. */
const JOINED: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.BinaryExpression,
  SyntaxKind.ConditionalExpression,
]);

function isList(checker: Checker, type: Type): boolean {
  return checker.isArrayType(type) || type.getSymbol()?.name === "ReadonlyArray";
}

function needing(constant: string): Needs {
  return { ...noNeeds(), constants: new Set([constant]), usesTarget: true };
}
