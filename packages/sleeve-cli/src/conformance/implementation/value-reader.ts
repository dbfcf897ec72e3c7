import { aliasTarget } from "../../compiler/syntax.ts";
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
  isPropertyAssignment,
  isPropertyDeclaration,
  isShorthandPropertyAssignment,
  isVariableDeclaration,
  type Node,
  type ParameterDeclaration,
  SignatureKind,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { type AdapterMapping, awaited, mappingOf } from "../exported.ts";
import type { MemberOwner } from "./implementations.ts";
import { libraryFunctionOf } from "./library-functions.ts";
import { classMembers, type FunctionCode, literalMembers, staticMembers } from "./member-code.ts";
import { type MemberCode, nameText, returnedFrom, stripped, visitAll } from "./wrapper-code.ts";

/** What an expression evaluates to, as far as it is written in the project. */
export interface FoundValue {
  readonly kind: "object" | "function" | "class" | "unknown";
  /** The class, literal or function; for the unknown, the expression. */
  readonly node: Node;
  readonly type: Type;
  readonly owners: readonly MemberOwner[];
  readonly members: ReadonlyMap<string, MemberCode>;
  readonly classNode: Node | undefined;
  readonly making: readonly Node[];
  /** The expressions on the way, the outermost first. */
  readonly values: readonly Node[];
  /** The declarations on the way. */
  readonly declarations: readonly Node[];
  readonly mapping: AdapterMapping | undefined;
  /** The arguments of the calls on the way. */
  readonly scope: Scope;
}

/** The arguments of calls, by the parameter's symbol. */
type Scope = ReadonlyMap<number, { readonly node: Node; readonly scope: Scope }>;

type FunctionNode = Node & {
  readonly parameters: readonly ParameterDeclaration[];
  readonly body?: Node;
};

const NO_SCOPE: Scope = new Map();
/** Maximum number of steps from an export to what implements it. */
const MAX_STEPS = 24;
/** Maximum number of expressions that are read for one export. */
const MAX_VALUES_READ = 5000;
/** Maximum number of values that one expression may have. */
const MAX_VALUES = 8;

/** Follows expressions to the classes, object literals and functions that they evaluate to. */
export class ValueReader {
  readonly #checker: Checker;
  readonly #isOwn: (path: string) => boolean;
  readonly #open = new Set<Node>();
  #steps = 0;

  constructor(checker: Checker, isOwn: (path: string) => boolean) {
    this.#checker = checker;
    this.#isOwn = isOwn;
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
    return this.#results(node as FunctionNode, scope).map((result) => ({
      ...result,
      making: [body, ...result.making.filter((made) => !isInside(made, body))],
      values: [...values, ...result.values],
      declarations: [...declarations, node, ...result.declarations],
    }));
  }

  #results(node: FunctionNode, scope: Scope): readonly FoundValue[] {
    const { body } = node;
    if (!body) return [];
    return limited(this.#known(returnedFrom(body).flatMap((returned) => this.value(returned, scope))));
  }

  /** Returns the values of an expression; several if it depends on a condition. */
  value(node: Node, scope: Scope = NO_SCOPE): readonly FoundValue[] {
    const inner = stripped(node);
    this.#steps += 1;
    // A value that is defined by itself, or that is too far away.
    if (this.#open.has(inner) || this.#steps > MAX_VALUES_READ || this.#open.size > MAX_STEPS)
      return [this.#unknown(inner)];
    this.#open.add(inner);
    try {
      return limited(this.#expression(inner, scope)).map((found) => ({
        ...found,
        values: [node, ...found.values],
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
    if (isCallExpression(node)) return this.#call(node, scope);
    if (isIdentifier(node)) return this.#name(node, scope);
    if (isPropertyAccessExpression(node) || isElementAccessExpression(node)) return this.#access(node, scope);
    if (node.kind === SyntaxKind.ConditionalExpression) {
      const { whenTrue, whenFalse } = node as Node & { whenTrue: Node; whenFalse: Node };
      return [whenTrue, whenFalse].flatMap((branch) => this.value(branch, scope));
    }
    if (isBinaryExpression(node)) return this.#binary(node, scope);
    return [this.#unknown(node)];
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
        return [this.#unknown(node)];
    }
  }

  /** Reads an object literal; what is written later wins. */
  #literal(node: Node, scope: Scope): readonly FoundValue[] {
    const type = this.#typeAt(node);
    const { properties } = node as Node & { readonly properties: readonly Node[] };
    const own = literalMembers(node, (initializer) => this.#functionCode(initializer, scope));
    const base: FoundValue = { ...this.#unknown(node), kind: "object", making: [node] };
    let found: readonly FoundValue[] = [{ ...base, owners: [], members: new Map() }];
    let names = new Set<string>();
    const take = (): void => {
      if (names.size === 0) return;
      const group = names;
      names = new Set();
      found = found.map((value) =>
        over(value, { owners: [{ type, names: group }], members: pick(own, group) }),
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
      found = limited(found.flatMap((value) => spread.map((part) => over(value, part))));
    }
    take();
    // A literal without members still has a type.
    return found.map((value) => (value.owners.length > 0 ? value : { ...value, owners: [{ type }] }));
  }

  #isNothing(type: Type): boolean {
    const held = this.#checker.getNonNullableType(type);
    return held !== undefined && (held.flags & TypeFlags.Never) !== 0;
  }

  #function(node: Node, scope: Scope): FoundValue {
    return { ...this.#unknown(node), kind: "function", scope };
  }

  #class(node: Node, scope: Scope): FoundValue {
    const { name } = node as Node & { readonly name?: Node };
    const symbol = name && this.#checker.getSymbolAtLocation(name);
    const type = (symbol && this.#checker.getTypeOfSymbol(symbol)) ?? this.#typeAt(node);
    const statics = staticMembers(node, (initializer) => this.#functionCode(initializer, scope));
    return {
      ...this.#unknown(node),
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
    for (let last = chain.at(-1); last && chain.length < MAX_VALUES; ) {
      const base = baseOf(last.classNode);
      const [found] = base ? this.value(base, last.scope).filter(({ kind }) => kind === "class") : [];
      last =
        found && !chain.some(({ classNode }) => classNode === found.node)
          ? { classNode: found.node, scope: found.scope }
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
    const { expression, arguments: given = [] } = node as Node & {
      readonly expression: Node;
      readonly arguments?: readonly Node[];
    };
    const [first] = given;
    if (expression.getText() === "Proxy" && first) return this.value(first, scope);
    const created = this.#typeAt(node);
    const type = created.isTypeParameter() ? undefined : created;
    return this.value(expression, scope).map((found) => ({
      ...(found.kind === "class"
        ? this.#instance(found, type)
        : { ...this.#unknown(node), values: found.values }),
      making: [...(found.kind === "class" ? this.#instance(found, type).making : []), node],
    }));
  }

  #call(
    node: Node & { readonly expression: Node; readonly arguments: readonly Node[] },
    scope: Scope,
  ): readonly FoundValue[] {
    const { expression, arguments: given } = node;
    return (
      this.#builtInCall(node, scope) ??
      this.#libraryCall(node, scope) ??
      this.#ownCall(expression, given, scope) ??
      this.#outsideCall(node, scope)
    );
  }

  /** A function without source: what it is given may be what it returns. */
  #outsideCall(node: Node & { readonly arguments: readonly Node[] }, scope: Scope): readonly FoundValue[] {
    const found = this.#unknown(node);
    const alike = node.arguments.filter((argument) => {
      const type = this.#checker.getTypeAtLocation(argument);
      return type !== undefined && this.#isObject(type) && this.#haveMembersInCommon(type, found.type);
    });
    const given = this.#isObject(found.type) ? alike.flatMap((argument) => this.value(argument, scope)) : [];
    return (given.length > 0 ? limited(given) : [found]).map((value) => ({
      ...value,
      making: [...value.making, node],
    }));
  }

  #haveMembersInCommon(type: Type, other: Type): boolean {
    const names = new Set(this.#checker.getPropertiesOfType(other).map(({ name }) => name));
    return this.#checker.getPropertiesOfType(type).some(({ name }) => names.has(name));
  }

  /** Whether a type has members of its own. */
  #isObject(type: Type): boolean {
    return (type.flags & TypeFlags.Object) !== 0 && this.#checker.getPropertiesOfType(type).length > 0;
  }

  /** `Object.freeze(x)` and its like, and `Promise.resolve(x)`. */
  #builtInCall(
    node: Node & { readonly expression: Node; readonly arguments: readonly Node[] },
    scope: Scope,
  ): readonly FoundValue[] | undefined {
    const { expression, arguments: given } = node;
    const [first, ...rest] = given;
    if (!isPropertyAccessExpression(expression) || !first) return undefined;
    const name = `${expression.expression.getText()}.${expression.name.text}`;
    if (SAME.has(name)) return this.value(first, scope);
    if (name === "Object.create") return this.value(first, scope);
    if (name !== "Object.assign" && name !== "Object.setPrototypeOf") return undefined;
    const parts = [first, ...rest].map((argument) => this.value(argument, scope));
    const merged = parts.reduce((all, sources) =>
      limited(
        all.flatMap((value) =>
          sources.map((source) => (name === "Object.assign" ? over(value, source) : over(source, value))),
        ),
      ),
    );
    // A function that gets members is an object of its own type.
    const type = this.#typeAt(node);
    return merged.map((value) => (value.kind === "function" ? { ...value, type } : value));
  }

  /** The library's wrappers: what they wrap, and what they put over it. */
  #libraryCall(
    node: Node & { readonly expression: Node; readonly arguments: readonly Node[] },
    scope: Scope,
  ): readonly FoundValue[] | undefined {
    const { expression, arguments: given } = node;
    const [first, second] = given;
    const name = libraryFunctionOf(this.#checker, expression);
    const inner = isCallExpression(expression) ? expression : undefined;
    const innerName = inner && libraryFunctionOf(this.#checker, inner.expression);
    if (innerName === "adapter") return inner && this.#adapter(inner);
    // `stack(…)(subject)`.
    if (innerName === "stack" && first) return this.value(first, scope);
    switch (name) {
      case "adapter":
        return this.#adapter(node);
      case "decorate":
        return first && this.value(first, scope);
      case "override": {
        if (!first || !second) return undefined;
        const subjects = this.value(first, scope);
        const overriding = this.value(second, scope).flatMap((found) =>
          found.kind === "function" ? this.#results(found.node as FunctionNode, found.scope) : [found],
        );
        return limited(subjects.flatMap((subject) => overriding.map((part) => over(subject, part))));
      }
      case "proxy":
        return first && this.#made(first, scope);
      default:
        // Other wrappers of the library are read by their types.
        return name === undefined && innerName === undefined
          ? undefined
          : [{ ...this.#unknown(node), kind: "object", making: [node] }];
    }
  }

  /** What a factory makes. */
  #made(factory: Node, scope: Scope): readonly FoundValue[] {
    return this.value(factory, scope).flatMap((found) =>
      found.kind === "function" ? this.#results(found.node as FunctionNode, found.scope) : [],
    );
  }

  #adapter(node: Node): readonly FoundValue[] {
    const mapping = mappingOf(this.#checker, node);
    return [{ ...this.#unknown(node), kind: "object", mapping, making: [node] }];
  }

  /** A call of a function of the project: what it returns, with the arguments for its parameters. */
  #ownCall(callee: Node, given: readonly Node[], scope: Scope): readonly FoundValue[] | undefined {
    const found = this.#calleeOf(callee, scope);
    if (!found?.node.body) return undefined;
    const inner = new Map(found.scope);
    found.node.parameters.forEach((parameter, index) => {
      const symbol = isIdentifier(parameter.name) && this.#checker.getSymbolAtLocation(parameter.name);
      const argument = given[index] ?? (parameter as Node & { initializer?: Node }).initializer;
      if (symbol && argument) inner.set(symbol.id, { node: argument, scope });
    });
    const results = this.#results(found.node, inner);
    if (results.length === 0) return undefined;
    const { body } = found.node;
    return results.map((result) => ({
      ...result,
      declarations: [found.node, ...result.declarations],
      making: [body, ...result.making.filter((made) => !isInside(made, body))],
    }));
  }

  #calleeOf(
    callee: Node,
    scope: Scope,
  ): { readonly node: FunctionNode & { readonly body?: Node }; readonly scope: Scope } | undefined {
    const inner = stripped(callee);
    const [found] = this.value(inner, scope).filter(({ kind }) => kind === "function");
    return found && { node: found.node as FunctionNode, scope: found.scope };
  }

  #name(node: Node, scope: Scope): readonly FoundValue[] {
    const symbol = this.#symbolAt(node);
    if (!symbol) return [this.#unknown(node)];
    const argument = scope.get(symbol.id);
    if (argument) return this.value(argument.node, argument.scope);
    const declaration = this.#declarationOf(symbol);
    if (!declaration) return [this.#unknown(node)];
    const found = this.#declaration(declaration, symbol, scope);
    return found.map((value) => {
      if (value.kind !== "unknown") return value;
      const type = this.#typeAt(node);
      return { ...value, type, owners: [{ type }] };
    });
  }

  /** `all.wrapper`, `Class.instance`, `namespace.wrapper`. */
  #access(node: Node & { readonly expression: Node }, scope: Scope): readonly FoundValue[] {
    const symbol = this.#symbolAt(isPropertyAccessExpression(node) ? node.name : node);
    const declaration = symbol && this.#declarationOf(symbol);
    if (symbol && declaration && hasValue(declaration)) return this.#declaration(declaration, symbol, scope);
    const elements = this.#elementsOf(node, scope);
    if (elements.length > 0) return elements;
    const name = isPropertyAccessExpression(node) ? node.name.text : undefined;
    const members = this.value(node.expression, scope).flatMap(({ members }) =>
      name === undefined ? [] : (members.get(name) ?? []),
    );
    if (members.length === 0) return [this.#unknown(node)];
    return members.flatMap((member) => this.#declaration(member.node, symbol, scope));
  }

  /** `[wrapper][0]`: any of the elements, unless the index is written. */
  #elementsOf(node: Node & { readonly expression: Node }, scope: Scope): readonly FoundValue[] {
    if (!isElementAccessExpression(node)) return [];
    const index = Number(node.argumentExpression.getText());
    const [array] = this.value(node.expression, scope).map((found) => found.node);
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
      return within(this.#results(declaration as unknown as FunctionNode, scope));
    if (isShorthandPropertyAssignment(declaration)) return within(this.value(declaration.name, scope));
    if (declaration.kind === SyntaxKind.ExportAssignment)
      return within(this.value((declaration as Node & { expression: Node }).expression, scope));
    if (isBindingElement(declaration)) return within(this.#element(declaration, scope));
    const { initializer } = declaration as Node & { readonly initializer?: Node };
    const isValue =
      isVariableDeclaration(declaration) ||
      isPropertyDeclaration(declaration) ||
      isPropertyAssignment(declaration);
    if (!isValue) return [this.#unknown(declaration)];
    const assigned =
      symbol && isVariableDeclaration(declaration) ? this.#assignedTo(declaration, symbol) : [];
    const sources = [...(initializer && !isNothing(initializer) ? [initializer] : []), ...assigned];
    if (sources.length === 0) return [this.#unknown(declaration)];
    return within(this.#known(sources.flatMap((source) => this.value(source, scope))));
  }

  /** Leaves out values of which nothing is known, such as cached ones, if there are others. */
  #known(values: readonly FoundValue[]): readonly FoundValue[] {
    const known = values.filter(({ kind, type }) => kind !== "unknown" || (type.flags & TypeFlags.Any) !== 0);
    return known.some(({ kind }) => kind !== "unknown") ? known : values;
  }

  /** Returns what is assigned to a variable later in its file. */
  #assignedTo(declaration: Node, symbol: CompilerSymbol): readonly Node[] {
    const list = declaration.parent as Node & { readonly flags?: number };
    if (/^\s*const\b/.test(list.getText())) return [];
    const { name } = declaration as Node & { readonly name: Node };
    const text = name.getText();
    const found: Node[] = [];
    visitAll(declaration.getSourceFile(), (node) => {
      if (
        isBinaryExpression(node) &&
        ASSIGNMENTS.has(node.operatorToken.kind) &&
        isIdentifier(node.left) &&
        node.left.text === text &&
        this.#checker.getSymbolAtLocation(node.left)?.id === symbol.id &&
        !isNothing(node.right)
      )
        found.push(node.right);
    });
    return found.slice(0, MAX_VALUES);
  }

  /** `const { wrapper } = make()`. */
  #element(declaration: Node, scope: Scope): readonly FoundValue[] {
    const { propertyName, name, parent } = declaration as Node & { propertyName?: Node; name: Node };
    const { initializer } = parent.parent as Node & { initializer?: Node };
    const text = (propertyName ?? name).getText();
    const members = initializer
      ? this.value(initializer, scope).flatMap(({ members }) => members.get(text) ?? [])
      : [];
    if (members.length === 0) return [this.#unknown(declaration)];
    return members.flatMap((member) => this.#declaration(member.node, undefined, scope));
  }

  /** Returns the function that a member's initializer evaluates to, if it is one of the project. */
  #functionCode(expression: Node, scope: Scope): FunctionCode | undefined {
    const bound = boundFunctionIn(expression);
    const [found] = this.value(bound ?? expression, scope);
    const { node } = found ?? {};
    if (found?.kind !== "function" || !node) return undefined;
    const { parameters, body } = node as FunctionNode;
    return body && { node, parameters, body, isBound: bound !== undefined || isArrowFunction(node) };
  }

  #symbolAt(node: Node): CompilerSymbol | undefined {
    const isShorthand = isShorthandPropertyAssignment(node.parent) && node.parent.name === node;
    const symbol = isShorthand
      ? this.#checker.getShorthandAssignmentValueSymbol(node.parent)
      : this.#checker.getSymbolAtLocation(node);
    return symbol && aliasTarget(this.#checker, symbol);
  }

  /** Whether an expression of which nothing is known is what a caller gives: a parameter. */
  isGiven(node: Node): boolean {
    const declaration = isIdentifier(node) ? this.#symbolAt(node)?.valueDeclaration?.resolve() : node;
    return declaration?.kind === SyntaxKind.Parameter || node.kind === SyntaxKind.ThisKeyword;
  }

  /** Returns the declaration with code, in the project. */
  #declarationOf({ valueDeclaration, declarations }: CompilerSymbol): Node | undefined {
    const all = [...declarations, ...(valueDeclaration ? [valueDeclaration] : [])].filter(({ path }) =>
      this.#isOwn(path),
    );
    const nodes = all.flatMap((handle) => handle.resolve() ?? []);
    return nodes.find(hasValue) ?? nodes[0];
  }

  #unknown(node: Node): FoundValue {
    const type = this.#typeAt(node);
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
  #typeAt(node: Node): Type {
    const type = this.#checker.getTypeAtLocation(node) ?? this.#checker.getUnknownType();
    return awaited(this.#checker, type) ?? type;
  }
}

/** Functions that return their first argument, with its members. */
const SAME: ReadonlySet<string> = new Set([
  "Object.freeze",
  "Object.seal",
  "Object.preventExtensions",
  "Object.defineProperty",
  "Object.defineProperties",
  "Promise.resolve",
]);

const ASSIGNMENTS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.EqualsToken,
  SyntaxKind.QuestionQuestionEqualsToken,
  SyntaxKind.BarBarEqualsToken,
]);

/** Puts the members of one value over those of another. */
function over(
  base: FoundValue,
  top: Pick<FoundValue, "owners" | "members"> & Partial<FoundValue>,
): FoundValue {
  return {
    ...base,
    owners: [...top.owners, ...base.owners],
    members: new Map([...base.members, ...top.members]),
    classNode: top.classNode ?? base.classNode,
    making: [...base.making, ...(top.making ?? [])],
    values: [...base.values, ...(top.values ?? [])],
    declarations: [...base.declarations, ...(top.declarations ?? [])],
  };
}

function pick(members: readonly MemberCode[], names: ReadonlySet<string>): ReadonlyMap<string, MemberCode> {
  return new Map(members.filter(({ name }) => names.has(name)).map((member) => [member.name, member]));
}

function limited<Item>(items: readonly Item[]): readonly Item[] {
  return items.slice(0, MAX_VALUES);
}

/** The expression that a class extends. */
function baseOf(node: Node): Node | undefined {
  const { heritageClauses = [] } = node as Node & {
    readonly heritageClauses?: readonly {
      readonly token: SyntaxKind;
      readonly types: readonly (Node & { readonly expression: Node })[];
    }[];
  };
  return heritageClauses.find(({ token }) => token === SyntaxKind.ExtendsKeyword)?.types[0]?.expression;
}

/** `impl.convert.bind(impl)`: the function that is bound. */
function boundFunctionIn(node: Node): Node | undefined {
  if (!isCallExpression(node) || !isPropertyAccessExpression(node.expression)) return undefined;
  return node.expression.name.text === "bind" ? node.expression.expression : undefined;
}

function hasValue(node: Node): boolean {
  const { initializer, body } = node as Node & { readonly initializer?: Node; readonly body?: Node };
  return (
    initializer !== undefined ||
    body !== undefined ||
    isClassLikeDeclaration(node) ||
    isShorthandPropertyAssignment(node) ||
    isBindingElement(node)
  );
}

function isNothing(node: Node): boolean {
  return node.kind === SyntaxKind.NullKeyword || node.getText() === "undefined";
}

function isInside(node: Node, outer: Node): boolean {
  return node.pos >= outer.pos && node.end <= outer.end && node.getSourceFile() === outer.getSourceFile();
}
