import {
  isArrayLiteralExpression,
  isBindingElement,
  isCallExpression,
  isElementAccessExpression,
  isIdentifier,
  isNumericLiteral,
  isObjectBindingPattern,
  isObjectLiteralExpression,
  isPropertyAccessExpression,
  isPropertyAssignment,
  isShorthandPropertyAssignment,
  isVariableDeclaration,
  type Node,
  SyntaxKind,
} from "../../compiler/typescript.ts";
import type { CallerCode } from "./caller-code.ts";
import { isFunctionNode, propertyNameOf } from "./caller-syntax.ts";

/** An expression, and the values of the parameters in whose scope it stands. */
export interface Expression {
  readonly node: Node;
  readonly scope: Scope;
}

/** Values of parameters, by their declarations; `undefined` for one that a call omits. */
export interface Scope {
  readonly values: ReadonlyMap<Node, Expression | undefined>;
  /** Number of calls that were followed. */
  readonly depth: number;
}

export const FILE_LEVEL: Scope = { values: new Map(), depth: 0 };

const MAX_DEPTH = 6;

/** Methods of arrays that call a function with each item, and the position of the item. */
const OF_ITEMS: ReadonlyMap<string, number> = new Map([
  ...["map", "forEach", "filter", "some", "every", "find", "findIndex", "flatMap"].map(
    (name) => [name, 0] as const,
  ),
  ["reduce", 1],
]);
/** Methods of arrays that return the same items. */
const SAME_ITEMS: ReadonlySet<string> = new Set([
  "filter",
  "slice",
  "sort",
  "toSorted",
  "reverse",
  "toReversed",
]);

/** Follows values through the constants, parameters and functions of callers. */
export class ValueFlow {
  readonly #code: CallerCode;
  readonly #scopes = new Map<Node, Map<number, Scope | undefined>>();
  /** What calls return, so that one call has one scope. */
  readonly #returned = new Map<Node, Map<Scope, Expression | undefined>>();

  readonly #constructors = new Map<Node, Scope>();
  readonly #adapterPath: string;

  constructor(code: CallerCode, adapterPath: string) {
    this.#code = code;
    this.#adapterPath = adapterPath;
  }

  /**
   * Returns the scope within a function, from one of its calls, or from one item of the array whose method calls it.
   *
   * @param variant which of several calls or items
   * @returns `undefined` if there are fewer
   */
  scopeWithin(container: Node, variant: number): Scope | undefined {
    if (container.kind === SyntaxKind.SourceFile) return variant === 0 ? FILE_LEVEL : undefined;
    const byVariant = this.#scopes.get(container) ?? new Map<number, Scope | undefined>();
    this.#scopes.set(container, byVariant);
    if (!byVariant.has(variant)) {
      // A recursive function has no values while they are searched.
      byVariant.set(variant, undefined);
      byVariant.set(variant, this.#scopeWithin(container, variant));
    }
    return byVariant.get(variant);
  }

  #scopeWithin(container: Node, variant: number): Scope | undefined {
    const outer = this.scopeWithin(containerOf(container), 0) ?? FILE_LEVEL;
    const parameters = parametersOf(container);
    if (parameters.length === 0) return variant === 0 ? outer : undefined;
    const items = this.#itemsFor(container, outer);
    if (items) {
      const item = items.values[variant];
      return item && extended(outer, [[parameters[items.position], item]]);
    }
    const call = this.#code.callsOf(container)[variant];
    if (!call) return variant === 0 ? outer : undefined;
    const caller = this.scopeWithin(containerOf(call), 0) ?? FILE_LEVEL;
    return withArguments(outer, parameters, call, caller);
  }

  /** Returns the scopes within a loop over an array that is written out, or a function that its method calls, for each item. */
  scopesOfItems(node: Node, scope: Scope): readonly Scope[] {
    if (isFunctionNode(node)) {
      const items = this.#itemsFor(node, scope);
      const parameter = items && parametersOf(node)[items.position];
      return items?.values.map((item) => extended(scope, [[parameter, item]])) ?? [];
    }
    const { expression, initializer } = node as Node & {
      expression: Node;
      initializer: Node & { declarations?: readonly Node[] };
    };
    const items = this.#itemsOf({ node: expression, scope }) ?? [];
    return items.map((item) => extended(scope, [[initializer.declarations?.[0], item]]));
  }

  /** Returns the items with which an array's method calls a function. */
  #itemsFor(
    container: Node,
    scope: Scope,
  ): { readonly values: readonly Expression[]; readonly position: number } | undefined {
    const call = container.parent;
    if (!isCallExpression(call) || !isPropertyAccessExpression(call.expression)) return undefined;
    const position = OF_ITEMS.get(call.expression.name.text);
    if (position === undefined || call.arguments[0] !== container) return undefined;
    const values = this.#itemsOf({ node: call.expression.expression, scope });
    return values && { values, position };
  }

  /** Returns the items of an array that is written out. */
  #itemsOf(list: Expression, depth = 0): readonly Expression[] | undefined {
    const { node, scope } = this.settled(list);
    if (isArrayLiteralExpression(node))
      return node.elements
        .filter(({ kind }) => kind !== SyntaxKind.SpreadElement && kind !== SyntaxKind.OmittedExpression)
        .map((element) => ({ node: element, scope }));
    const isSame =
      depth < MAX_DEPTH &&
      isCallExpression(node) &&
      isPropertyAccessExpression(node.expression) &&
      SAME_ITEMS.has(node.expression.name.text);
    return isSame
      ? this.#itemsOf({ node: (node.expression as Node & { expression: Node }).expression, scope }, depth + 1)
      : undefined;
  }

  /** Follows an expression to the code that makes its value, as far as it is written out. */
  settled(expression: Expression): Expression {
    let current = expression;
    for (let count = 0; count < 30; count++) {
      const next = this.#next(current);
      if (!next) return current;
      current = next;
    }
    return current;
  }

  #next({ node, scope }: Expression): Expression | undefined {
    const inner = withoutAssertion(node);
    if (inner !== node) return { node: inner, scope };
    if (isIdentifier(node)) {
      const declaration = this.#code.declarationOf(node);
      return declaration && this.valueOf(declaration, scope);
    }
    if (isPropertyAccessExpression(node)) {
      if (node.expression.kind === SyntaxKind.ThisKeyword) return this.fieldValue(node);
      return this.propertyOf({ node: node.expression, scope }, node.name.text);
    }
    if (isElementAccessExpression(node)) {
      const { argumentExpression: index } = node as Node & { argumentExpression: Node };
      const items = isNumericLiteral(index) ? this.#itemsOf({ node: node.expression, scope }) : undefined;
      return items?.[Number(index.getText())];
    }
    return isCallExpression(node) ? this.returnedBy(node, scope) : undefined;
  }

  /** Returns the value of a variable or parameter, if it is written out, and not in the adapter. */
  valueOf(declaration: Node, scope: Scope): Expression | undefined {
    if (declaration.getSourceFile().fileName === this.#adapterPath) return undefined;
    const bound = scope.values.get(declaration);
    if (bound) return bound;
    if (isBindingElement(declaration)) return this.#boundValue(declaration, scope);
    if (!isVariableDeclaration(declaration)) return undefined;
    const { initializer } = declaration as Node & { initializer?: Node };
    const isFileLevel = containerOf(declaration).kind === SyntaxKind.SourceFile;
    if (initializer) return { node: initializer, scope: isFileLevel ? FILE_LEVEL : scope };
    const loop = declaration.parent.parent as Node & { expression?: Node };
    if (loop.kind !== SyntaxKind.ForOfStatement || !loop.expression) return undefined;
    return this.#itemsOf({ node: loop.expression, scope })?.[0];
  }

  #boundValue(element: Node, scope: Scope): Expression | undefined {
    const pattern = element.parent;
    const owner = this.valueOf(pattern.parent, scope);
    if (!owner || !isBindingElement(element)) return undefined;
    const { name, propertyName } = element as Node & { name: Node; propertyName?: Node };
    if (isObjectBindingPattern(pattern)) return this.propertyOf(owner, (propertyName ?? name).getText());
    const index = (pattern as Node & { elements: readonly Node[] }).elements.indexOf(element);
    return this.#itemsOf(owner)?.[index];
  }

  /** Returns a property of an object that is written out. */
  propertyOf(owner: Expression, name: string): Expression | undefined {
    const { node, scope } = this.settled(owner);
    if (!isObjectLiteralExpression(node)) return undefined;
    const property = node.properties.find((candidate) => propertyNameOf(candidate) === name);
    if (!property) return undefined;
    if (isPropertyAssignment(property)) return { node: property.initializer, scope };
    return isShorthandPropertyAssignment(property) ? { node: property.name, scope } : undefined;
  }

  /** Returns what a class assigns to the field in `this.field`, with the arguments of its first construction. */
  fieldValue(access: Node & { name: Node }): Expression | undefined {
    const declaration = this.#code.declarationOf(access.name);
    if (!declaration) return undefined;
    const { initializer } = declaration as Node & { initializer?: Node };
    if (declaration.kind === SyntaxKind.Parameter)
      return this.#scopeOfConstructor(declaration.parent).values.get(declaration);
    if (initializer) return { node: initializer, scope: FILE_LEVEL };
    const { members = [] } = declaration.parent as Node & { members?: readonly Node[] };
    const creator = members.find(({ kind }) => kind === SyntaxKind.Constructor);
    const assigned = creator && assignedTo(access.getText(), creator);
    return assigned && creator && { node: assigned, scope: this.#scopeOfConstructor(creator) };
  }

  #scopeOfConstructor(declaration: Node): Scope {
    const [construction] = this.#code.callsOf(declaration.parent);
    if (!construction) return FILE_LEVEL;
    const cached = this.#constructors.get(declaration);
    if (cached) return cached;
    const caller = this.scopeWithin(containerOf(construction), 0) ?? FILE_LEVEL;
    const scope = withArguments(FILE_LEVEL, parametersOf(declaration), construction, caller);
    this.#constructors.set(declaration, scope);
    return scope;
  }

  /** Returns the scope within a function for one of its calls; `undefined` if too many calls were followed. */
  scopeOfCall(called: Node, call: Node, scope: Scope): Scope | undefined {
    if (scope.depth >= MAX_DEPTH) return undefined;
    const outer = containerOf(called).kind === SyntaxKind.SourceFile ? FILE_LEVEL : scope;
    return withArguments(outer, parametersOf(called), call, scope);
  }

  /** Returns what a call of one of our own functions returns, if the function has one `return`. */
  returnedBy(call: Node, scope: Scope): Expression | undefined {
    const byScope = this.#returned.get(call) ?? new Map<Scope, Expression | undefined>();
    this.#returned.set(call, byScope);
    if (!byScope.has(scope)) byScope.set(scope, this.#returnedBy(call, scope));
    return byScope.get(scope);
  }

  #returnedBy(call: Node, scope: Scope): Expression | undefined {
    const { expression } = call as Node & { expression: Node };
    const called = isIdentifier(expression) ? this.#code.calledBy(expression) : undefined;
    const node = called && isFunctionNode(called) ? returnedExpression(called) : undefined;
    const inner = called && node && this.scopeOfCall(called, call, scope);
    return inner && { node, scope: inner };
  }
}

/** Returns the value that a constructor assigns to a field. */
function assignedTo(field: string, creator: Node): Node | undefined {
  const { body } = creator as Node & { body?: Node & { statements: readonly Node[] } };
  for (const statement of body?.statements ?? []) {
    const { expression } = statement as Node & { expression?: Node & { left?: Node; right?: Node } };
    if (expression?.left?.getText() === field) return expression.right;
  }
  return undefined;
}

function extended(
  scope: Scope,
  values: readonly (readonly [Node | undefined, Expression | undefined])[],
  depth = scope.depth,
): Scope {
  const added = values.flatMap(([parameter, value]) => (parameter ? [[parameter, value] as const] : []));
  return { values: new Map([...scope.values, ...added]), depth };
}

/** Returns a scope with the parameters of a function bound to the arguments of a call. */
function withArguments(outer: Scope, parameters: readonly Node[], call: Node, caller: Scope): Scope {
  const { arguments: args = [] } = call as Node & { arguments?: readonly Node[] };
  const spread = args.findIndex(({ kind }) => kind === SyntaxKind.SpreadElement);
  const bound = parameters.flatMap((parameter, index) => {
    const { initializer, dotDotDotToken } = parameter as Node & {
      initializer?: Node;
      dotDotDotToken?: Node;
    };
    if (dotDotDotToken || (spread >= 0 && index >= spread)) return [];
    const node = args[index];
    if (node) return [[parameter, { node, scope: caller }] as const];
    return [[parameter, initializer && { node: initializer, scope: outer }] as const];
  });
  return extended(outer, bound, caller.depth + 1);
}

/** Returns the innermost function, or the file, that contains a node. */
export function containerOf(node: Node): Node {
  let at = node.parent;
  while (at.kind !== SyntaxKind.SourceFile && !isFunctionNode(at)) at = at.parent;
  return at;
}

export function parametersOf(container: Node): readonly Node[] {
  return (container as Node & { parameters?: readonly Node[] }).parameters ?? [];
}

/** Returns an expression without parentheses and type assertions. */
export function withoutAssertion(node: Node): Node {
  switch (node.kind) {
    case SyntaxKind.ParenthesizedExpression:
    case SyntaxKind.AsExpression:
    case SyntaxKind.SatisfiesExpression:
    case SyntaxKind.NonNullExpression:
    case SyntaxKind.TypeAssertionExpression:
      return withoutAssertion((node as Node & { expression: Node }).expression);
    default:
      return node;
  }
}

/** Returns the only expression that a function returns. */
function returnedExpression(called: Node): Node | undefined {
  const { body, asteriskToken } = called as Node & { body?: Node; asteriskToken?: Node };
  if (!body || asteriskToken) return undefined;
  if (body.kind !== SyntaxKind.Block) return body;
  const returned: Node[] = [];
  const visit = (node: Node): void => {
    if (isFunctionNode(node)) return;
    if (node.kind === SyntaxKind.ReturnStatement) returned.push(node);
    node.forEachChild(visit);
  };
  body.forEachChild(visit);
  const [statement, ...others] = returned;
  const isAlone = others.length === 0 && statement?.parent === body;
  return isAlone ? (statement as Node & { expression?: Node }).expression : undefined;
}
