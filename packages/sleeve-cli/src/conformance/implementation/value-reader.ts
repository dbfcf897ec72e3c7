import {
  type Checker,
  type CompilerSymbol,
  isArrayLiteralExpression,
  isArrowFunction,
  isBinaryExpression,
  isBindingElement,
  isCallExpression,
  isClassLikeDeclaration,
  isElementAccessExpression,
  isFunctionDeclaration,
  isFunctionExpression,
  isGetAccessorDeclaration,
  isIdentifier,
  isMethodDeclaration,
  isNewExpression,
  isObjectLiteralExpression,
  isPropertyAccessExpression,
  isShorthandPropertyAssignment,
  type Node,
  SignatureKind,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { awaited } from "../exported.ts";
import { CallReader } from "./call-reader.ts";
import { declarationWithCode, sourcesOf, symbolAt } from "./declared-nodes.ts";
import {
  type FoundValue,
  type FunctionNode,
  isInside,
  limited,
  MAX_STEPS,
  MAX_VALUES_READ,
  NO_SCOPE,
  over,
  type ReadsValues,
  type Scope,
  withoutUnknown,
} from "./found-value.ts";
import {
  classMembers,
  type FunctionCode,
  literalMembers,
  membersNamed,
  staticMembers,
} from "./member-code.ts";
import { baseOf, boundFunctionIn, hasValue } from "./value-syntax.ts";
import { type MemberCode, nameText, returnedFrom, stripped } from "./wrapper-code.ts";

/** Follows expressions to the classes, object literals and functions that they evaluate to. */
export class ValueReader implements ReadsValues {
  readonly #checker: Checker;
  readonly #isOwn: (path: string) => boolean;
  readonly #calls: CallReader;
  readonly #open = new Set<Node>();
  #steps = 0;

  constructor(checker: Checker, isOwn: (path: string) => boolean) {
    this.#checker = checker;
    this.#isOwn = isOwn;
    this.#calls = new CallReader(checker, this);
  }

  /** Returns the values of an exported declaration. */
  declared(declaration: Node, symbol: CompilerSymbol): readonly FoundValue[] {
    this.#steps = 0;
    return this.#declaration(declaration, symbol, NO_SCOPE);
  }

  /** Returns the instances of a class. */
  instancesOf(value: FoundValue): readonly FoundValue[] {
    return [this.#instance(value, undefined)];
  }

  /** Returns what a function returns, awaited. */
  resultsOf({ node, values, declarations, scope }: FoundValue): readonly FoundValue[] {
    const { body } = node as FunctionNode;
    if (!body) return [];
    return this.results(node as FunctionNode, scope).map((result) => ({
      ...result,
      making: [body, ...result.making.filter((node) => !isInside(node, body))],
      values: [...values, ...result.values],
      declarations: [...declarations, node, ...result.declarations],
    }));
  }

  /** Returns what a function returns, with the arguments for its parameters. */
  results(node: FunctionNode, scope: Scope): readonly FoundValue[] {
    const { body } = node;
    if (!body) return [];
    return limited(withoutUnknown(returnedFrom(body).flatMap((returned) => this.value(returned, scope))));
  }

  /** Returns the values of an expression; several if it depends on a condition. */
  value(node: Node, scope: Scope = NO_SCOPE): readonly FoundValue[] {
    const inner = stripped(node);
    this.#steps += 1;
    // A value that is defined by itself, or that is too far away.
    if (this.#open.has(inner) || this.#steps > MAX_VALUES_READ || this.#open.size > MAX_STEPS)
      return [this.unknown(inner)];
    this.#open.add(inner);
    try {
      return limited(this.#expression(inner, scope)).map((value) => ({
        ...value,
        values: [node, ...value.values],
      }));
    } finally {
      this.#open.delete(inner);
    }
  }

  #expression(node: Node, scope: Scope): readonly FoundValue[] {
    if (isObjectLiteralExpression(node)) return this.#literal(node, scope);
    if (isArrowFunction(node) || isFunctionExpression(node)) return [this.#function(node, scope)];
    if (isClassLikeDeclaration(node)) return [this.#class(node, scope)];
    if (isNewExpression(node)) return this.#created(node, scope);
    if (isCallExpression(node)) return this.#calls.call(node, scope);
    if (isIdentifier(node)) return this.#name(node, scope);
    if (isPropertyAccessExpression(node) || isElementAccessExpression(node)) return this.#access(node, scope);
    if (node.kind === SyntaxKind.ConditionalExpression) {
      const { whenTrue, whenFalse } = node as Node & { whenTrue: Node; whenFalse: Node };
      return [whenTrue, whenFalse].flatMap((branch) => this.value(branch, scope));
    }
    if (isBinaryExpression(node)) return this.#binary(node, scope);
    return [this.unknown(node)];
  }

  #binary(
    node: Node & { readonly left: Node; readonly right: Node; readonly operatorToken: Node },
    scope: Scope,
  ): readonly FoundValue[] {
    switch (node.operatorToken.kind) {
      case SyntaxKind.QuestionQuestionToken:
      case SyntaxKind.BarBarToken:
        return [
          ...this.value(node.left, scope).filter(
            ({ kind, type }) => kind !== "unknown" || !this.#isNothing(type),
          ),
          ...this.value(node.right, scope),
        ];
      case SyntaxKind.AmpersandAmpersandToken:
      case SyntaxKind.CommaToken:
      case SyntaxKind.EqualsToken:
      case SyntaxKind.QuestionQuestionEqualsToken:
      case SyntaxKind.BarBarEqualsToken:
        return this.value(node.right, scope);
      default:
        return [this.unknown(node)];
    }
  }

  /** Reads an object literal; what is written later wins. */
  #literal(node: Node, scope: Scope): readonly FoundValue[] {
    const type = this.typeAt(node);
    const { properties } = node as Node & { readonly properties: readonly Node[] };
    const literal = literalMembers(node, (initializer) => this.#functionCode(initializer, scope));
    const base: FoundValue = { ...this.unknown(node), kind: "object", making: [node] };
    let values: readonly FoundValue[] = [{ ...base, owners: [], members: new Map() }];
    let names = new Set<string>();
    const take = (): void => {
      if (names.size === 0) return;
      const group = names;
      names = new Set();
      values = values.map((value) =>
        over(value, { owners: [{ type, names: group }], members: membersNamed(literal, group) }),
      );
    };
    for (const property of properties) {
      if (property.kind !== SyntaxKind.SpreadAssignment) {
        const name = nameText(property);
        if (name !== undefined) names.add(name);
        continue;
      }
      take();
      const spread = this.value((property as Node & { expression: Node }).expression, scope);
      values = limited(values.flatMap((value) => spread.map((part) => over(value, part))));
    }
    take();
    // A literal without members still has a type.
    return values.map((value) => (value.owners.length > 0 ? value : { ...value, owners: [{ type }] }));
  }

  #isNothing(type: Type): boolean {
    const nonNullable = this.#checker.getNonNullableType(type);
    return nonNullable !== undefined && (nonNullable.flags & TypeFlags.Never) !== 0;
  }

  #function(node: Node, scope: Scope): FoundValue {
    return { ...this.unknown(node), kind: "function", scope };
  }

  #class(node: Node, scope: Scope): FoundValue {
    const { name } = node as Node & { readonly name?: Node };
    const symbol = name && this.#checker.getSymbolAtLocation(name);
    const type = (symbol && this.#checker.getTypeOfSymbol(symbol)) ?? this.typeAt(node);
    const statics = staticMembers(node, (initializer) => this.#functionCode(initializer, scope));
    return {
      ...this.unknown(node),
      kind: "class",
      type,
      owners: [{ type }],
      members: new Map(statics.map((member) => [member.name, member])),
      classNode: node,
      scope,
      declarations: [node],
    };
  }

  /** Reads a class with its base classes, as far as they are the project's own. */
  #instance(value: FoundValue, type: Type | undefined): FoundValue {
    const { node, scope } = value;
    const chain = this.#chainOf(node, scope);
    const members = new Map<string, MemberCode>();
    const making: Node[] = [];
    for (const { classNode, scope } of chain) {
      const read = classMembers(classNode, (initializer) => this.#functionCode(initializer, scope));
      for (const member of read.members) if (!members.has(member.name)) members.set(member.name, member);
      making.push(...read.making);
    }
    const instance = type ?? this.#instanceType(node) ?? value.type;
    return {
      ...value,
      kind: "object",
      type: instance,
      owners: [{ type: instance }],
      members,
      classNode: node,
      making: [...value.making, ...making],
      declarations: [...value.declarations, ...chain.map(({ classNode }) => classNode)],
    };
  }

  #chainOf(node: Node, scope: Scope): readonly { readonly classNode: Node; readonly scope: Scope }[] {
    const chain = [{ classNode: node, scope }];
    for (let last = chain.at(-1); last; ) {
      const base = baseOf(last.classNode);
      const [baseClass] = base ? this.value(base, last.scope).filter(({ kind }) => kind === "class") : [];
      last =
        baseClass && !chain.some(({ classNode }) => classNode === baseClass.node)
          ? { classNode: baseClass.node, scope: baseClass.scope }
          : undefined;
      if (last) chain.push(last);
    }
    return chain;
  }

  #instanceType(node: Node): Type | undefined {
    const type = this.#checker.getTypeAtLocation(node);
    const { name } = node as Node & { name?: Node };
    const symbol = name && this.#checker.getSymbolAtLocation(name);
    const declared = symbol && this.#checker.getDeclaredTypeOfSymbol(symbol);
    if (declared) return declared;
    const [signature] = type ? this.#checker.getSignaturesOfType(type, SignatureKind.Construct) : [];
    return signature && this.#checker.getReturnTypeOfSignature(signature);
  }

  #created(node: Node & { readonly expression: Node }, scope: Scope): readonly FoundValue[] {
    const { expression, arguments: argumentNodes = [] } = node as Node & {
      readonly expression: Node;
      readonly arguments?: readonly Node[];
    };
    const [firstArgument] = argumentNodes;
    if (expression.getText() === "Proxy" && firstArgument) return this.value(firstArgument, scope);
    const created = this.typeAt(node);
    const type = created.isTypeParameter() ? undefined : created;
    return this.value(expression, scope).map((value) => ({
      ...(value.kind === "class"
        ? this.#instance(value, type)
        : { ...this.unknown(node), values: value.values }),
      making: [...(value.kind === "class" ? this.#instance(value, type).making : []), node],
    }));
  }

  #name(node: Node, scope: Scope): readonly FoundValue[] {
    const symbol = symbolAt(this.#checker, node);
    if (!symbol) return [this.unknown(node)];
    const argument = scope.get(symbol.id);
    if (argument) return this.value(argument.node, argument.scope);
    const declaration = declarationWithCode(symbol, this.#isOwn);
    if (!declaration) return [this.unknown(node)];
    const declaredValues = this.#declaration(declaration, symbol, scope);
    return declaredValues.map((value) => {
      if (value.kind !== "unknown") return value;
      const type = this.typeAt(node);
      return { ...value, type, owners: [{ type }] };
    });
  }

  /** `all.wrapper`, `Class.instance`, `namespace.wrapper`. */
  #access(node: Node & { readonly expression: Node }, scope: Scope): readonly FoundValue[] {
    const symbol = symbolAt(this.#checker, isPropertyAccessExpression(node) ? node.name : node);
    const declaration = symbol && declarationWithCode(symbol, this.#isOwn);
    if (symbol && declaration && hasValue(declaration)) return this.#declaration(declaration, symbol, scope);
    const elements = this.#elementsOf(node, scope);
    if (elements.length > 0) return elements;
    const name = isPropertyAccessExpression(node) ? node.name.text : undefined;
    const members = this.value(node.expression, scope).flatMap(({ members }) =>
      name === undefined ? [] : (members.get(name) ?? []),
    );
    if (members.length === 0) return [this.unknown(node)];
    return members.flatMap((member) => this.#declaration(member.node, symbol, scope));
  }

  /** `[wrapper][0]`: any of the elements, unless the index is written. */
  #elementsOf(node: Node & { readonly expression: Node }, scope: Scope): readonly FoundValue[] {
    if (!isElementAccessExpression(node)) return [];
    const index = Number(node.argumentExpression.getText());
    const [array] = this.value(node.expression, scope).map((value) => value.node);
    if (!array || !isArrayLiteralExpression(array)) return [];
    const { elements } = array as Node & { readonly elements: readonly Node[] };
    const read = Number.isInteger(index) ? elements.slice(index, index + 1) : elements;
    return limited(read.flatMap((element) => this.value(element, scope)));
  }

  #declaration(declaration: Node, symbol: CompilerSymbol | undefined, scope: Scope): readonly FoundValue[] {
    const within = (values: readonly FoundValue[]) =>
      values.map((value) => ({ ...value, declarations: [declaration, ...value.declarations] }));
    if (isClassLikeDeclaration(declaration)) return [this.#class(declaration, scope)];
    if (isFunctionDeclaration(declaration) || isMethodDeclaration(declaration))
      return [this.#function(declaration, scope)];
    if (isGetAccessorDeclaration(declaration))
      return within(this.results(declaration as unknown as FunctionNode, scope));
    if (isShorthandPropertyAssignment(declaration)) return within(this.value(declaration.name, scope));
    if (declaration.kind === SyntaxKind.ExportAssignment)
      return within(this.value((declaration as Node & { expression: Node }).expression, scope));
    if (isBindingElement(declaration)) return within(this.#element(declaration, scope));
    const sources = sourcesOf(this.#checker, declaration, symbol);
    if (sources.length === 0) return [this.unknown(declaration)];
    return within(withoutUnknown(sources.flatMap((source) => this.value(source, scope))));
  }

  /** `const { wrapper } = make()`. */
  #element(declaration: Node, scope: Scope): readonly FoundValue[] {
    const { propertyName, name, parent } = declaration as Node & { propertyName?: Node; name: Node };
    const { initializer } = parent.parent as Node & { initializer?: Node };
    const text = (propertyName ?? name).getText();
    const members = initializer
      ? this.value(initializer, scope).flatMap(({ members }) => members.get(text) ?? [])
      : [];
    if (members.length === 0) return [this.unknown(declaration)];
    return members.flatMap((member) => this.#declaration(member.node, undefined, scope));
  }

  /** Returns the function that a member's initializer evaluates to, if it is one of the project. */
  #functionCode(expression: Node, scope: Scope): FunctionCode | undefined {
    const bound = boundFunctionIn(expression);
    const [calledValue] = this.value(bound ?? expression, scope);
    const { node } = calledValue ?? {};
    if (calledValue?.kind !== "function" || !node) return undefined;
    const { parameters, body } = node as FunctionNode;
    return body && { node, parameters, body, isBound: bound !== undefined || isArrowFunction(node) };
  }

  /** Whether an expression of which nothing is known is what a caller gives: a parameter. */
  isGiven(node: Node): boolean {
    const declaration = isIdentifier(node)
      ? symbolAt(this.#checker, node)?.valueDeclaration?.resolve()
      : node;
    return declaration?.kind === SyntaxKind.Parameter || node.kind === SyntaxKind.ThisKeyword;
  }

  /** Returns a value of which only the type is known. */
  unknown(node: Node): FoundValue {
    const type = this.typeAt(node);
    return {
      kind: "unknown",
      node,
      type,
      owners: [{ type }],
      members: new Map(),
      classNode: undefined,
      making: [],
      values: [],
      declarations: [],
      mapping: undefined,
      scope: NO_SCOPE,
    };
  }

  /** A promise is read as what it resolves to. */
  typeAt(node: Node): Type {
    const type = this.#checker.getTypeAtLocation(node) ?? this.#checker.getUnknownType();
    return awaited(this.#checker, type) ?? type;
  }
}
