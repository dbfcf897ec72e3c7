import {
  type Checker,
  isCallExpression,
  isIdentifier,
  isPropertyAccessExpression,
  type Node,
  type Type,
  TypeFlags,
} from "../../compiler/typescript.ts";
import { mappingOf } from "../exported.ts";
import {
  type FoundValue,
  type FunctionNode,
  isInside,
  limited,
  over,
  type ReadsValues,
  type Scope,
} from "./found-value.ts";
import { libraryFunctionOf } from "./library-functions.ts";
import { stripped } from "./wrapper-code.ts";

/** Follows calls: of functions of the language, of this library, of the project, and of those without source. */
export class CallReader {
  readonly #checker: Checker;
  readonly #values: ReadsValues;

  constructor(checker: Checker, values: ReadsValues) {
    this.#checker = checker;
    this.#values = values;
  }

  /** Returns the values of a call. */
  call(
    node: Node & { readonly expression: Node; readonly arguments: readonly Node[] },
    scope: Scope,
  ): readonly FoundValue[] {
    const { expression, arguments: argumentNodes } = node;
    return (
      this.#builtInCall(node, scope) ??
      this.#libraryCall(node, scope) ??
      this.#ownCall(expression, argumentNodes, scope) ??
      this.#outsideCall(node, scope)
    );
  }

  /** A function without source: what it is given may be what it returns. */
  #outsideCall(node: Node & { readonly arguments: readonly Node[] }, scope: Scope): readonly FoundValue[] {
    const unknownValue = this.#values.unknown(node);
    const alike = node.arguments.filter((argument) => {
      const type = this.#checker.getTypeAtLocation(argument);
      return type !== undefined && this.#isObject(type) && this.#haveMembersInCommon(type, unknownValue.type);
    });
    const objectTypes = this.#isObject(unknownValue.type)
      ? alike.flatMap((argument) => this.#values.value(argument, scope))
      : [];
    return (objectTypes.length > 0 ? limited(objectTypes) : [unknownValue]).map((value) => ({
      ...value,
      making: [...value.making, node],
    }));
  }

  #haveMembersInCommon(type: Type, otherType: Type): boolean {
    const names = new Set(this.#checker.getPropertiesOfType(otherType).map(({ name }) => name));
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
    const { expression, arguments: argumentNodes } = node;
    const [firstArgument, ...otherArguments] = argumentNodes;
    if (!isPropertyAccessExpression(expression) || !firstArgument) return undefined;
    const name = `${expression.expression.getText()}.${expression.name.text}`;
    if (SAME.has(name)) return this.#values.value(firstArgument, scope);
    if (name === "Object.create") return this.#values.value(firstArgument, scope);
    if (name !== "Object.assign" && name !== "Object.setPrototypeOf") return undefined;
    const parts = [firstArgument, ...otherArguments].map((argument) => this.#values.value(argument, scope));
    const merged = parts.reduce((combined, sources) =>
      limited(
        combined.flatMap((value) =>
          sources.map((source) => (name === "Object.assign" ? over(value, source) : over(source, value))),
        ),
      ),
    );
    // A function that gets members is an object of its own type.
    const type = this.#values.typeAt(node);
    return merged.map((value) => (value.kind === "function" ? { ...value, type } : value));
  }

  /** The library's wrappers: what they wrap, and what they put over it. */
  #libraryCall(
    node: Node & { readonly expression: Node; readonly arguments: readonly Node[] },
    scope: Scope,
  ): readonly FoundValue[] | undefined {
    const { expression, arguments: argumentNodes } = node;
    const [firstArgument] = argumentNodes;
    const name = libraryFunctionOf(this.#checker, expression);
    const inner = isCallExpression(expression) ? expression : undefined;
    const innerName = inner && libraryFunctionOf(this.#checker, inner.expression);
    if (innerName === "adapter") return inner && this.#adapter(inner);
    // `stack(…)(subject)`.
    if (innerName === "stack" && firstArgument) return this.#values.value(firstArgument, scope);
    // Other wrappers of the library are read by their types.
    if (name === undefined)
      return innerName === undefined
        ? undefined
        : [{ ...this.#values.unknown(node), kind: "object", making: [node] }];
    return this.#libraryValue(name, node, scope);
  }

  #libraryValue(
    name: string,
    node: Node & { readonly arguments: readonly Node[] },
    scope: Scope,
  ): readonly FoundValue[] | undefined {
    const [firstArgument, second] = node.arguments;
    switch (name) {
      case "adapter":
        return this.#adapter(node);
      case "decorate":
      case "decorateClass":
        return firstArgument && this.#values.value(firstArgument, scope);
      case "override":
        return firstArgument && second && this.#overridden(firstArgument, second, scope);
      case "proxy":
        return firstArgument && this.#made(firstArgument, scope);
      default:
        return [{ ...this.#values.unknown(node), kind: "object", making: [node] }];
    }
  }

  /** A subject with members of another object, or of the object that a function returns, over its own. */
  #overridden(subject: Node, members: Node, scope: Scope): readonly FoundValue[] {
    const subjects = this.#values.value(subject, scope);
    const overriding = this.#values
      .value(members, scope)
      .flatMap((value) =>
        value.kind === "function" ? this.#values.results(value.node as FunctionNode, value.scope) : [value],
      );
    return limited(subjects.flatMap((value) => overriding.map((part) => over(value, part))));
  }

  /** What a factory makes. */
  #made(factory: Node, scope: Scope): readonly FoundValue[] {
    return this.#values
      .value(factory, scope)
      .flatMap((value) =>
        value.kind === "function" ? this.#values.results(value.node as FunctionNode, value.scope) : [],
      );
  }

  #adapter(node: Node): readonly FoundValue[] {
    const mapping = mappingOf(this.#checker, node);
    return [{ ...this.#values.unknown(node), kind: "object", mapping, making: [node] }];
  }

  /** A call of a function of the project: what it returns, with the arguments for its parameters. */
  #ownCall(callee: Node, argumentNodes: readonly Node[], scope: Scope): readonly FoundValue[] | undefined {
    const callees = this.#calleeOf(callee, scope);
    if (!callees?.node.body) return undefined;
    const inner = new Map(callees.scope);
    callees.node.parameters.forEach((parameter, index) => {
      const symbol = isIdentifier(parameter.name) && this.#checker.getSymbolAtLocation(parameter.name);
      const argument = argumentNodes[index] ?? (parameter as Node & { initializer?: Node }).initializer;
      if (symbol && argument) inner.set(symbol.id, { node: argument, scope });
    });
    const results = this.#values.results(callees.node, inner);
    if (results.length === 0) return undefined;
    const { body } = callees.node;
    return results.map((result) => ({
      ...result,
      declarations: [callees.node, ...result.declarations],
      making: [body, ...result.making.filter((node) => !isInside(node, body))],
    }));
  }

  #calleeOf(
    callee: Node,
    scope: Scope,
  ): { readonly node: FunctionNode & { readonly body?: Node }; readonly scope: Scope } | undefined {
    const inner = stripped(callee);
    const [functionValue] = this.#values.value(inner, scope).filter(({ kind }) => kind === "function");
    return functionValue && { node: functionValue.node as FunctionNode, scope: functionValue.scope };
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
