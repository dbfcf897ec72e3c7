import type { Program } from "../../compiler/program.ts";
import {
  type Checker,
  type CompilerSymbol,
  isBindingElement,
  isCallExpression,
  isElementAccessExpression,
  isNewExpression,
  isPropertyAccessExpression,
  type Node,
  type NodeHandle,
  type Signature,
  SignatureKind,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { symbolsOf } from "../uses.ts";
import { type FunctionNode, membersNamedIn, type PropertyNode, propertiesOf } from "./member-nodes.ts";

/** Decides which names are worth resolving, because each costs a request to the compiler. */
export interface MemberFilter {
  /** Whether a member of interest can have a name. May return `true` too often. */
  readonly mayName: (name: string) => boolean;
  /** Whether a file can declare a type of interest, named or not. May return `true` too often. */
  readonly mayDeclare: (path: string, isAnonymous: boolean) => boolean;
}

/** The members of outside types that a project uses, identified by their declarations. */
export class UsedMembers {
  readonly #filter: MemberFilter;
  /** Uses of each member, by its declaration. */
  readonly #uses = new Map<string, { readonly path: string; readonly offset: number }[]>();
  readonly #calls = new Map<string, { readonly call: Node; readonly checker: Checker }[]>();
  readonly #assigned = new Map<string, readonly { readonly value: Node; readonly checker: Checker }[]>();
  /** The objects whose members are used, by the member's declaration. */
  readonly #owners = new Map<string, MemberOwner[]>();
  readonly #readAsValues = new Set<string>();
  /** The first declaration of each member that is used by its name, by its key. Fields of literals are not. */
  readonly #named = new Map<string, NodeHandle>();

  constructor(filter: MemberFilter) {
    this.#filter = filter;
  }

  /** Adds the uses in one file. */
  take(
    program: Program,
    path: string,
    cached: (checker: Checker) => Checker,
    skipped: ReadonlySet<number> = new Set(),
  ): void {
    const source = program.sourceFile(path);
    const fileChecker = program.checkerFor(path);
    if (!source || !fileChecker) return;
    const checker = cached(fileChecker);
    const { names, literals, passed, callbacks, heritage } = membersNamedIn(source, this.#filter, skipped);
    const symbols = names.length > 0 ? symbolsOf(names, checker) : [];
    names.forEach((name, index) => {
      const symbol = symbols[index];
      if (symbol) this.#use(symbol, name, checker);
    });
    this.#takePassed(checker, passed);
    for (const callback of callbacks) this.#takeParameters(checker, callback);
    for (const implemented of heritage) this.#takeImplemented(checker, implemented);
    for (const literal of literals) this.#takeLiteral(checker, literal);
  }

  /** An object literal uses the members that it has of the expected type. */
  #takeLiteral(checker: Checker, literal: Node): void {
    const properties = propertiesOf(literal).filter(({ name }) => this.#filter.mayName(name?.text ?? ""));
    if (properties.length === 0) return;
    const type = checker.getContextualType(literal as Parameters<Checker["getContextualType"]>[0]);
    if (!type) return;
    // A literal may be any part of a union.
    const owners = (type.isUnionType() ? type.getTypes() : [type]).filter((owner) =>
      this.#isOfInterest(owner),
    );
    for (const { name } of properties) {
      const { text } = name ?? {};
      if (!name || text === undefined) continue;
      for (const owner of owners) {
        const symbol = checker.getPropertyOfType(owner, text);
        if (symbol) this.#note(symbol, name, { type, checker });
      }
    }
  }

  /** A value that is passed as a type with some members is used with these members. */
  #takePassed(checker: Checker, values: readonly Node[]): void {
    const types = values.length > 0 ? checker.getTypeAtLocation(values) : [];
    values.forEach((value, index) => {
      const valueType = types[index];
      if (!valueType || !this.#isOfInterest(valueType)) return;
      const contextual = checker.getContextualType(value as Parameters<Checker["getContextualType"]>[0]);
      if (contextual) this.#takeAs(checker, valueType, contextual, value);
    });
  }

  /** A callback that declares types of its own for its parameters uses their members. */
  #takeParameters(checker: Checker, callback: FunctionNode): void {
    const expected = checker.getContextualType(
      callback as Node as Parameters<Checker["getContextualType"]>[0],
    );
    const [signature] = expected ? checker.getSignaturesOfType(expected, SignatureKind.Call) : [];
    callback.parameters.forEach(({ type }, index) => {
      const parameterType = type && signature && checker.getParameterType(signature, index);
      const declaredType = type && checker.getTypeFromTypeNode(type);
      if (parameterType && declaredType && this.#isOfInterest(parameterType))
        this.#takeAs(checker, parameterType, declaredType, type);
    });
  }

  /** A class that implements a type has the members that it declares of it. */
  #takeImplemented(checker: Checker, implemented: Node): void {
    const type = checker.getTypeFromTypeNode(implemented as Parameters<Checker["getTypeFromTypeNode"]>[0]);
    if (!type || !this.#isOfInterest(type)) return;
    const { members = [] } = implemented.parent.parent as Node & { members?: readonly PropertyNode[] };
    for (const { name } of members) {
      const member = name?.text === undefined ? undefined : checker.getPropertyOfType(type, name.text);
      if (member) this.#note(member, implemented, { type, checker });
    }
  }

  /** Adds the members that a value needs to be taken as another type. */
  #takeAs(checker: Checker, valueType: Type, targetType: Type, at: Node): void {
    if (valueType.id === targetType.id || (targetType.flags & TypeFlags.Object) === 0) return;
    const members = checker.getPropertiesOfType(targetType);
    if (members.length > MOST_PASSED) return;
    for (const { name } of members) {
      const member = this.#filter.mayName(name) && checker.getPropertyOfType(valueType, name);
      if (member) this.#note(member, at, { type: valueType, checker });
    }
  }

  /** Whether a type can have members of interest. */
  #isOfInterest(type: Type): boolean {
    if ((type.flags & (TypeFlags.Object | TypeFlags.UnionOrIntersection)) === 0) return false;
    if (type.isUnionType() || type.isIntersectionType())
      return type.getTypes().some((part) => this.#isOfInterest(part));
    const { name, declarations = [] } = type.getSymbol() ?? {};
    // A mapped type of the language library has members of other types.
    const isAnonymous = name === undefined || name === "__type";
    return (
      declarations.length === 0 || declarations.some(({ path }) => this.#filter.mayDeclare(path, isAnonymous))
    );
  }

  has({ declarations }: CompilerSymbol): boolean {
    return declarations.some((declaration) => this.#uses.has(keyOf(declaration)));
  }

  /** Returns the called signatures of a member; all of them if it is also used as a value. */
  called(symbol: CompilerSymbol, signatures: readonly Signature[]): readonly Signature[] {
    if (signatures.length < 2 || this.#isReadAsValue(symbol)) return signatures;
    const calledKeys = new Set(
      this.calls(symbol).flatMap(({ declaration }) => (declaration ? [keyOf(declaration)] : [])),
    );
    const called = signatures.filter(({ declaration }) => declaration && calledKeys.has(keyOf(declaration)));
    return called.length > 0 ? called : signatures;
  }

  /** Whether a symbol is used other than by calling it or reaching its members. */
  isRead(symbol: CompilerSymbol): boolean {
    return this.#isReadAsValue(symbol);
  }

  /** Whether a symbol is used only to reach its members, as `sums` in `sums.sum()`. */
  isOnlyReceiver(symbol: CompilerSymbol): boolean {
    const isCalled = symbol.declarations.some((declaration) => this.#calls.has(keyOf(declaration)));
    return this.has(symbol) && !isCalled && !this.#isReadAsValue(symbol);
  }

  /** Returns the values that are assigned to a member. */
  assignedTo({
    declarations,
  }: CompilerSymbol): readonly { readonly value: Node; readonly checker: Checker }[] {
    return declarations.flatMap((declaration) => this.#assigned.get(keyOf(declaration)) ?? []);
  }

  /** Returns the calls and constructions of a member. */
  callSites({ declarations }: CompilerSymbol): readonly { readonly call: Node; readonly checker: Checker }[] {
    return declarations.flatMap((declaration) => this.#calls.get(keyOf(declaration)) ?? []);
  }

  /**
   * Returns the signatures of a member as called, with type arguments filled in; none if it is also used as a
   * value.
   */
  calls(symbol: CompilerSymbol): readonly Signature[] {
    if (this.#isReadAsValue(symbol)) return [];
    return this.callSites(symbol).flatMap(({ call, checker }) => checker.getResolvedSignature(call) ?? []);
  }

  /** Returns the maximum number of arguments in calls of a member; `undefined` if unknown. */
  mostArguments(symbol: CompilerSymbol): number | undefined {
    const calls = this.callSites(symbol);
    if (calls.length === 0 || this.#isReadAsValue(symbol)) return undefined;
    const counts = calls.map(({ call }) => {
      const { arguments: argumentNodes = [] } = call as Node & { arguments?: readonly Node[] };
      return argumentNodes.some(({ kind }) => kind === SyntaxKind.SpreadElement)
        ? Number.POSITIVE_INFINITY
        : argumentNodes.length;
    });
    return Math.max(...counts);
  }

  #isReadAsValue({ declarations }: CompilerSymbol): boolean {
    return declarations.some((declaration) => this.#readAsValues.has(keyOf(declaration)));
  }

  /** Whether a member is read, called or written, rather than passed as a field of a literal. */
  isNamed({ declarations: [first] }: CompilerSymbol): boolean {
    return first !== undefined && this.#named.has(keyOf(first));
  }

  /** Returns the first declarations of the named members of types that some files declare. */
  namedIn(isDeclaring: (path: string) => boolean): readonly NodeHandle[] {
    return [...this.#named.values()].filter(({ path, kind }) => isDeclaring(path) && MEMBER_KINDS.has(kind));
  }

  /** Returns the uses of a member, by path and offset. */
  usesOf({ declarations }: CompilerSymbol): readonly { readonly path: string; readonly offset: number }[] {
    return declarations.flatMap((declaration) => this.#uses.get(keyOf(declaration)) ?? []);
  }

  /** Returns the objects whose members are used under a declaration. */
  ownersOf({ declarations }: CompilerSymbol): readonly MemberOwner[] {
    return declarations.flatMap((declaration) => this.#owners.get(keyOf(declaration)) ?? []);
  }

  #note({ declarations }: CompilerSymbol, node: Node, owner: MemberOwner): void {
    const source = node.getSourceFile();
    const use = { path: source.fileName, offset: node.getStart(source) };
    for (const declaration of declarations) {
      const calls = this.#uses.get(keyOf(declaration));
      if (calls) calls.push(use);
      else this.#uses.set(keyOf(declaration), [use]);
      const owners = this.#owners.get(keyOf(declaration));
      if (owners) owners.push(owner);
      else this.#owners.set(keyOf(declaration), [owner]);
    }
  }

  /** Adds a use whose form the place itself shows. */
  use(symbol: CompilerSymbol, node: Node, checker: Checker): void {
    this.#use(symbol, node, checker);
  }

  #use(symbol: CompilerSymbol, node: Node, checker: Checker): void {
    const keys = symbol.declarations.map(keyOf);
    const [declaration] = symbol.declarations;
    if (declaration) this.#named.set(keyOf(declaration), declaration);
    this.#note(symbol, node, { receiver: receiverOf(node), checker });
    const call = callOf(node);
    const value = assignedTo(node);
    for (const key of value ? keys : [])
      this.#assigned.set(key, [...(this.#assigned.get(key) ?? []), { value: value as Node, checker }]);
    for (const key of keys) {
      if (!call) {
        if (!isReceiver(node)) this.#readAsValues.add(key);
      } else if (this.#calls.has(key)) this.#calls.get(key)?.push({ call, checker });
      else this.#calls.set(key, [{ call, checker }]);
    }
  }
}

/** An object whose member is used: as the type that is expected, or as what a name is read from, if that is known. */
export type MemberOwner =
  | { readonly type: Type; readonly checker: Checker }
  | { readonly receiver: Node | undefined; readonly checker: Checker };

/** Returns the expression or pattern that a member's name is read from. */
export function receiverOf(name: Node): Node | undefined {
  const { parent } = name;
  if (isAccessOf(parent, name)) return (parent as Node & { expression: Node }).expression;
  return isBindingElement(parent) ? parent.parent : undefined;
}

/** Declarations of members of types, rather than of modules. */
const MEMBER_KINDS: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.PropertySignature,
  SyntaxKind.PropertyDeclaration,
  SyntaxKind.MethodSignature,
  SyntaxKind.MethodDeclaration,
  SyntaxKind.GetAccessor,
  SyntaxKind.SetAccessor,
]);

function keyOf({ path, index }: NodeHandle): string {
  return `${path} ${index}`;
}

/** Returns the call or construct expression of a name. */
function callOf(name: Node): Node | undefined {
  const { parent } = name;
  const callee = isAccessOf(parent, name) ? parent : name;
  const call = callee.parent;
  return (isCallExpression(call) || isNewExpression(call)) && call.expression === callee ? call : undefined;
}

/** Returns the value that is assigned to a member: `"utc"` of `settings.zone = "utc"`. */
function assignedTo(name: Node): Node | undefined {
  const { parent } = name;
  const access = isAccessOf(parent, name) ? parent : name;
  const { left, operatorToken, right } = access.parent as Node & {
    left?: Node;
    operatorToken?: Node;
    right?: Node;
  };
  return left === access && operatorToken?.kind === SyntaxKind.EqualsToken ? right : undefined;
}

/** Whether a name, or the access that it ends, is the object of another access. */
function isReceiver(name: Node): boolean {
  const { parent } = name;
  const access = isAccessOf(parent, name) ? parent : name;
  const over = access.parent;
  return (isPropertyAccessExpression(over) || isElementAccessExpression(over)) && over.expression === access;
}

function isAccessOf(node: Node, name: Node): boolean {
  if (isPropertyAccessExpression(node)) return node.name === name;
  return isElementAccessExpression(node) && node.argumentExpression === name;
}

/** Maximum number of members of a type for which the members of a passed value are noted. */
const MOST_PASSED = 12;
