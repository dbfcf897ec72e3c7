import {
  type Checker,
  type CompilerSymbol,
  isArrowFunction,
  isAsExpression,
  isAwaitExpression,
  isBinaryExpression,
  isBindingElement,
  isCallExpression,
  isElementAccessExpression,
  isFunctionExpression,
  isIdentifier,
  isNewExpression,
  isNonNullExpression,
  isObjectBindingPattern,
  isObjectLiteralExpression,
  isParenthesizedExpression,
  isPropertyAccessExpression,
  isPropertyAssignment,
  isVariableDeclaration,
  type Node,
  SignatureKind,
  type SourceFile,
  SyntaxKind,
} from "../../compiler/typescript.ts";
import { plainType } from "./plain-type.ts";
import {
  type ArgumentShape,
  awaitedOf,
  elementOf,
  emptyShape,
  memberOf,
  type UsedCall,
  type UseShape,
} from "./use-shape.ts";

/** Maximum number of steps from one use to the next: `a.b().c().d`. */
const MAX_STEPS = 40;

type Parts = Node & {
  readonly name?: Node & { readonly text?: string };
  readonly text?: string;
  readonly type?: Node;
  readonly expression?: Node;
  readonly initializer?: Node;
  readonly left?: Node;
  readonly right?: Node;
  readonly operatorToken?: Node;
  readonly questionDotToken?: Node;
  readonly whenTrue?: Node;
  readonly whenFalse?: Node;
  readonly arguments?: readonly Node[];
  readonly properties?: readonly Node[];
  readonly elements?: readonly Node[];
  readonly parameters?: readonly Node[];
  readonly propertyName?: Node & { readonly text?: string };
  readonly dotDotDotToken?: Node;
};

/** Reads from one file what its expressions show about values without types. */
export class ShapeReader {
  readonly #checker: Checker;
  readonly #isGlobal: (path: string) => boolean;
  readonly #identifiers = new Map<string, Node[]>();
  readonly #seen = new Set<Node>();

  constructor(source: SourceFile, checker: Checker, isGlobal: (path: string) => boolean) {
    this.#checker = checker;
    this.#isGlobal = isGlobal;
    const visit = (node: Node): void => {
      if (isIdentifier(node)) {
        const identifiers = this.#identifiers.get(node.text);
        if (identifiers) identifiers.push(node);
        else this.#identifiers.set(node.text, [node]);
      }
      node.forEachChild(visit);
    };
    source.forEachChild(visit);
  }

  /** Adds what the place of an expression shows about its value. */
  read(shape: UseShape, node: Node, steps = 0): void {
    if (steps > MAX_STEPS || this.#seen.has(node)) return;
    this.#seen.add(node);
    const parent = node.parent as Parts;
    if (isVariableDeclaration(parent) && parent.initializer === node)
      this.#bind(shape, parent.name, parent, steps);
    else if (parent.kind === SyntaxKind.ForOfStatement && parent.expression === node)
      this.#readLoop(elementOf(shape), parent, steps);
    else if (isBinaryExpression(parent)) this.#readOperator(shape, node, parent as Parts, steps);
    else if (isCondition(node)) return;
    else {
      const result = this.#resultOver(shape, node, parent);
      if (result) this.read(result, parent, steps + 1);
      else this.#expect(shape, isTyped(parent) ? parent : node);
    }
  }

  /** Returns the shape of the expression over another one, if it is a use of its value. */
  #resultOver(shape: UseShape, node: Node, parent: Parts): UseShape | undefined {
    if (isParenthesizedExpression(parent) || isNonNullExpression(parent)) return shape;
    if (parent.kind === SyntaxKind.ConditionalExpression) return shape;
    if (isAwaitExpression(parent)) return awaitedOf(shape);
    if (parent.expression !== node) return undefined;
    if (isPropertyAccessExpression(parent)) {
      const member = memberOf(shape, parent.name.text);
      if (parent.questionDotToken) shape.isNullable = true;
      this.#readWrite(member, parent);
      return member;
    }
    if (isElementAccessExpression(parent)) {
      const { argumentExpression: key } = parent;
      const { text } = key as Parts;
      const isName = key.kind === SyntaxKind.StringLiteral && text !== undefined;
      return isName ? memberOf(shape, text) : elementOf(shape);
    }
    if (!isCallExpression(parent) && !isNewExpression(parent)) return undefined;
    const call = this.#callOf(parent as Parts);
    (isNewExpression(parent) ? shape.constructs : shape.calls).push(call);
    return call.result;
  }

  /** `a + b`, `a ?? b`, `target = a`. */
  #readOperator(shape: UseShape, node: Node, parent: Parts, steps: number): void {
    const operator = parent.operatorToken?.kind ?? SyntaxKind.Unknown;
    const isLeft = parent.left === node;
    if (operator === SyntaxKind.EqualsToken && !isLeft) this.#expect(shape, node);
    if (operator === SyntaxKind.QuestionQuestionToken && isLeft) shape.isNullable = true;
    if (PASSES_ON.has(operator)) {
      if (operator !== SyntaxKind.AmpersandAmpersandToken || !isLeft) this.read(shape, parent, steps + 1);
      return;
    }
    if (NEEDS_NUMBER.has(operator)) shape.expected.add("number");
    if (operator === SyntaxKind.PlusToken) this.#expectAddend(shape, isLeft ? parent.right : parent.left);
  }

  /** `a + b`: what is added to a text or a number is probably one too. */
  #expectAddend(shape: UseShape, sibling: Node | undefined): void {
    const text = sibling ? this.#typeOf(sibling) : "unknown";
    if (text === "string" || text === "number") shape.expected.add(text);
  }

  /** `queue.limit = 3`. */
  #readWrite(member: UseShape, access: Node): void {
    const { left, right, operatorToken } = access.parent as Parts;
    if (left !== access || !right || operatorToken?.kind !== SyntaxKind.EqualsToken) return;
    const text = this.#typeOf(right);
    if (text !== "unknown") member.expected.add(text);
  }

  /** Adds the type that the place of an expression requires. */
  #expect(shape: UseShape, node: Node): void {
    const { type } = node as Parts;
    const contextual =
      type && isTyped(node)
        ? this.#checker.getTypeFromTypeNode(type as Parameters<Checker["getTypeFromTypeNode"]>[0])
        : this.#checker.getContextualType(node as Parameters<Checker["getContextualType"]>[0]);
    const text = contextual ? plainType(this.#checker, contextual, this.#isGlobal) : "unknown";
    if (!/\bunknown\b/.test(text) && text !== "void") shape.expected.add(text);
  }

  #callOf(call: Parts): UsedCall {
    const args = (call.arguments ?? []).map((argument) => ({
      name: nameOf(argument),
      shape: this.#argumentOf(argument),
    }));
    return { args, result: emptyShape() };
  }

  #argumentOf(argument: Node): ArgumentShape {
    if (isObjectLiteralExpression(argument)) {
      const properties = (argument as unknown as Parts).properties ?? [];
      const isPlain = properties.every(
        (property) => isPropertyAssignment(property) && (property as Parts).name?.text !== undefined,
      );
      if (isPlain)
        return {
          kind: "literal",
          properties: new Map(
            properties.map((property) => {
              const { name, initializer } = property as Parts;
              return [name?.text ?? "", this.#argumentOf(initializer as Node)];
            }),
          ),
        };
    }
    if (isArrowFunction(argument) || isFunctionExpression(argument)) return this.#callbackOf(argument);
    return { kind: "type", text: this.#typeOf(argument) };
  }

  #callbackOf(callback: Node): ArgumentShape {
    const { parameters = [] } = callback as Parts;
    const type = this.#checker.getTypeAtLocation(callback);
    const [signature] = type ? this.#checker.getSignaturesOfType(type, SignatureKind.Call) : [];
    const result = signature && this.#checker.getReturnTypeOfSignature(signature);
    const returned = result ? plainType(this.#checker, result, this.#isGlobal) : "unknown";
    return {
      kind: "callback",
      parameters: parameters.map((parameter, index) => {
        const { name, type: annotation } = parameter as Parts;
        const shape = emptyShape();
        if (annotation) {
          const text = this.#textOfType(annotation);
          if (text !== "unknown") shape.expected.add(text);
        } else if (name) this.#bind(shape, name, parameter, 0);
        return { name: name?.text ?? `argument${index + 1}`, shape };
      }),
      result: /\bunknown\b/.test(returned) ? "unknown" : returned,
    };
  }

  /** Follows a value to the names that it is bound to. */
  #bind(shape: UseShape, name: Node, declaration: Node, steps: number): void {
    const { type } = declaration as Parts;
    if (type) {
      const text = this.#textOfType(type);
      if (!/\bunknown\b/.test(text)) shape.expected.add(text);
      return;
    }
    if (isIdentifier(name)) {
      for (const use of this.#usesOf(name)) this.read(shape, use, steps + 1);
      return;
    }
    for (const element of (name as Parts).elements ?? []) {
      const { name: bound, propertyName, dotDotDotToken, initializer } = element as Parts;
      if (!bound || dotDotDotToken || initializer || !isBindingElement(element)) continue;
      const key = propertyName?.text ?? bound.text;
      if (!isObjectBindingPattern(name)) this.#bind(elementOf(shape), bound, element, steps + 1);
      else if (key !== undefined) this.#bind(memberOf(shape, key), bound, element, steps + 1);
    }
  }

  #readLoop(element: UseShape, loop: Parts, steps: number): void {
    const { declarations = [] } = (loop.initializer ?? {}) as { declarations?: readonly Node[] };
    for (const declaration of declarations) {
      const { name } = declaration as Parts;
      if (name) this.#bind(element, name, declaration, steps + 1);
    }
  }

  /** Returns the places in the file that refer to a local name, other than its declaration. */
  #usesOf(name: Node & { readonly text: string }): readonly Node[] {
    const named = this.#identifiers.get(name.text) ?? [];
    const symbols = this.#checker.getSymbolAtLocation(named);
    const exportSymbol: CompilerSymbol | undefined = symbols[named.indexOf(name)];
    return named.filter(
      (node, index) => node !== name && exportSymbol !== undefined && symbols[index]?.id === exportSymbol.id,
    );
  }

  #typeOf(node: Node): string {
    const type = this.#checker.getTypeAtLocation(node);
    return type ? plainType(this.#checker, type, this.#isGlobal) : "unknown";
  }

  #textOfType(node: Node): string {
    const type = this.#checker.getTypeFromTypeNode(node as Parameters<Checker["getTypeFromTypeNode"]>[0]);
    return type ? plainType(this.#checker, type, this.#isGlobal) : "unknown";
  }
}

/** Returns the name that a value has at a call site, as a name for the parameter. */
function nameOf(argument: Node): string | undefined {
  if (isObjectLiteralExpression(argument)) return "options";
  if (isArrowFunction(argument) || isFunctionExpression(argument)) return "callback";
  const { text, name } = argument as Parts;
  if (isIdentifier(argument)) return text;
  return isPropertyAccessExpression(argument) ? name?.text : undefined;
}

/** `value as Type`, `value satisfies Type`. */
function isTyped(node: Node): boolean {
  return isAsExpression(node) || node.kind === SyntaxKind.SatisfiesExpression;
}

/** Whether an expression is the condition in `value ? a : b`. */
function isCondition(node: Node): boolean {
  const { kind, whenTrue, whenFalse } = node.parent as Parts;
  return kind === SyntaxKind.ConditionalExpression && whenTrue !== node && whenFalse !== node;
}

const PASSES_ON: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.AmpersandAmpersandToken,
  SyntaxKind.BarBarToken,
  SyntaxKind.QuestionQuestionToken,
  SyntaxKind.CommaToken,
]);

const NEEDS_NUMBER: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.MinusToken,
  SyntaxKind.AsteriskToken,
  SyntaxKind.SlashToken,
  SyntaxKind.PercentToken,
  SyntaxKind.LessThanToken,
  SyntaxKind.LessThanEqualsToken,
  SyntaxKind.GreaterThanToken,
  SyntaxKind.GreaterThanEqualsToken,
]);
