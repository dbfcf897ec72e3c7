import {
  type Checker,
  isArrayLiteralExpression,
  isArrowFunction,
  isAsExpression,
  isBlock,
  isFunctionExpression,
  isIdentifier,
  isObjectLiteralExpression,
  isParenthesizedExpression,
  isReturnStatement,
  isSatisfiesExpression,
  type Node,
  type Signature,
  SignatureKind,
  SyntaxKind,
  type Type,
  TypeFlags,
} from "../../../compiler/typescript.ts";
import { baseOf, unionOf } from "../shapes/merge-shapes.ts";
import { isErrorOrNothing } from "../shapes/promise-form.ts";
import {
  type Field,
  type ParameterShape,
  type ResultShape,
  type Shape,
  text,
  UNKNOWN,
  VOID,
  valueResult,
} from "../shapes/shape.ts";
import { Underivable } from "./derive-context.ts";
import { parameterName } from "./signature-reader.ts";
import type { TypeReader } from "./type-reader.ts";

/** Reads what callers pass as shapes. */
export class ArgumentReader {
  readonly #checker: Checker;
  readonly #types: TypeReader;
  #keepsBooleans = false;

  constructor(checker: Checker, types: TypeReader) {
    this.#checker = checker;
    this.#types = types;
  }

  /** Reads with `true` and `false` as they are written. */
  withBooleans<Result>(read: () => Result): Result {
    this.#keepsBooleans = true;
    try {
      return read();
    } finally {
      this.#keepsBooleans = false;
    }
  }

  /** @param declared the type that the parameter is declared with, before type arguments are filled in */
  read(argument: Node, declared: Type | undefined): Shape {
    return declared && this.#takesAnything(declared) ? UNKNOWN : this.value(argument, declared);
  }

  /** Reads an argument, whatever else its parameter takes. */
  value(argument: Node, declared: Type | undefined): Shape {
    const shape = this.#written(argument, declared);
    // Callers know the type by its name.
    const named = shape.kind === "object" && declared ? this.#types.namedPart(declared) : undefined;
    if (named) return named;
    // What the module promises not to change may be read-only.
    const isKept = shape.kind === "array" && declared !== undefined && this.#isReadonlyArray(declared);
    return isKept ? { ...shape, isReadonly: true } : shape;
  }

  #isReadonlyArray(declared: Type): boolean {
    const type = this.#declaredPart(declared);
    return this.#checker.isArrayType(type) && type.getSymbol()?.name === "ReadonlyArray";
  }

  #written(argument: Node, declared: Type | undefined): Shape {
    if (isParenthesizedExpression(argument)) return this.value(argument.expression, declared);
    if (isAsExpression(argument) || isSatisfiesExpression(argument))
      return isConstAssertion(argument)
        ? this.value(argument.expression, declared)
        : this.#ofType(argument, declared);
    if (isObjectLiteralExpression(argument)) return this.#object(argument, declared);
    if (isArrayLiteralExpression(argument)) return this.#array(argument, declared);
    if (isArrowFunction(argument) || isFunctionExpression(argument)) return this.#function(argument);
    if (argument.kind === SyntaxKind.ConditionalExpression) {
      const { whenTrue, whenFalse } = argument as Node & { whenTrue: Node; whenFalse: Node };
      return unionOf([this.value(whenTrue, declared), this.value(whenFalse, declared)]);
    }
    return this.#ofType(argument, declared);
  }

  /** Whether a parameter takes any value: `any`, `unknown`, or a type parameter without a constraint. */
  #takesAnything(declared: Type): boolean {
    if ((declared.flags & (TypeFlags.Any | TypeFlags.Unknown)) !== 0) return true;
    if (!declared.isTypeParameter()) return false;
    const constraint = this.#checker.getConstraintOfTypeParameter(declared);
    return constraint === undefined || (constraint.flags & (TypeFlags.Any | TypeFlags.Unknown)) !== 0;
  }

  #ofType(argument: Node, declared: Type | undefined): Shape {
    const type = this.#checker.getTypeAtLocation(argument);
    if (!type) throw new Underivable("an argument has no type");
    if ((type.flags & (TypeFlags.Any | TypeFlags.Unknown)) !== 0)
      return declared ? this.#types.read(declared) : UNKNOWN;
    const callback = this.#functionByName(argument, type);
    return callback ?? this.widened(type, declared);
  }

  /** A function passed under its name takes what the module passes to it, as a callback does. */
  #functionByName(argument: Node, type: Type): Shape | undefined {
    const signatures = this.#checker.getSignaturesOfType(type, SignatureKind.Call);
    const expectedType = this.#checker.getContextualType(
      argument as Parameters<Checker["getContextualType"]>[0],
    );
    const [expected, ...others] = expectedType ? this.#signaturesOf(this.#declaredPart(expectedType)) : [];
    const isSimple = signatures.length > 0 && expected && others.length === 0;
    if (!isSimple || expected.getTypeParameters().length > 0) return undefined;
    const isMethod = this.#checker.getPropertiesOfType(type).length > 0;
    if (isMethod) return undefined;
    const most = Math.max(
      ...signatures.map((signature) =>
        signature.hasRestParameter ? Number.POSITIVE_INFINITY : signature.getParameters().length,
      ),
    );
    const { parameters, result } = this.#types.signatures.signature(expected, most);
    const [ownSignature] = signatures;
    const isOurs = signatures.length === 1 && ownSignature && this.#types.signatures.isOurs(ownSignature);
    const own = isOurs ? this.#types.signatures.signature(ownSignature).parameters : [];
    const taken = parameters.slice(0, most).map((parameter, index) => ({
      ...parameter,
      shape: own[index]?.shape ?? parameter.shape,
      isOptional: false,
    }));
    const signature = { typeParameters: [], parameters: taken, result };
    return { kind: "function", signatures: [signature], isAnnotated: isOurs === true };
  }

  /** Reads the type of an argument; its literals stay only where the parameter takes particular ones. */
  widened(type: Type, declared: Type | undefined): Shape {
    const keepsLiterals = declared !== undefined && this.#takesParticular(declared);
    const shape = this.#types.read(type);
    if (keepsLiterals) return shape;
    const parts = shape.kind === "union" ? shape.parts : [shape];
    return unionOf(
      parts.map((part) => {
        if (part.kind !== "text") return part;
        if (part.text === "true" || part.text === "false")
          return this.#keepsBooleans ? part : text("boolean");
        return text(baseOf(part.text) ?? part.text);
      }),
    );
  }

  /** Whether a declared type has literals without their base type: `"day" | "hour"`, `true`, `keyof Config`. */
  #takesParticular(declared: Type): boolean {
    if (declared.isTypeParameter()) {
      const constraint = this.#checker.getConstraintOfTypeParameter(declared);
      return constraint !== undefined && this.#takesParticular(constraint);
    }
    if (declared.isIndexType() || declared.isTemplateLiteralType()) return true;
    const parts = declared.isUnionType() ? declared.getTypes() : [declared];
    const flags = parts.reduce((sum, part) => sum | part.flags, 0);
    if ((flags & TypeFlags.StringLiteral) !== 0 && (flags & TypeFlags.String) === 0) return true;
    if ((flags & TypeFlags.NumberLiteral) !== 0 && (flags & TypeFlags.Number) === 0) return true;
    if (parts.some((part) => part.isIndexType() || part.isTypeParameter())) return true;
    return parts.filter((part) => (part.flags & TypeFlags.BooleanLiteral) !== 0).length === 1;
  }

  #object(literal: Node, declared: Type | undefined): Shape {
    const { properties } = literal as Node & { readonly properties: readonly PropertyNode[] };
    const owner = declared && this.#ownerOf(literal, declared);
    const fields = new Map<string, Field>();
    for (const property of properties) {
      if (property.kind === SyntaxKind.SpreadAssignment) {
        for (const [name, field] of this.#spread(property)) fields.set(name, field);
        continue;
      }
      const name = property.name?.text;
      if (name === undefined) throw new Underivable("an option has a computed name");
      const shape = this.#property(property, name, owner);
      fields.set(name, { shape, isOptional: false, isReadonly: false, isMethod: false });
    }
    if (fields.size === 0 && declared) return this.#types.read(declared);
    return { kind: "object", fields, outsideName: undefined };
  }

  #property(property: PropertyNode, name: string, owner: Type | undefined): Shape {
    if (isMethodNode(property)) return this.#function(property);
    const isShorthand = property.kind === SyntaxKind.ShorthandPropertyAssignment;
    const value = property.initializer ?? (isShorthand ? property.name : undefined);
    if (!value) throw new Underivable("an option has no value");
    const symbol = owner && this.#checker.getPropertyOfType(owner, name);
    const type = symbol && this.#checker.getTypeOfSymbol(symbol);
    return this.value(value, type && this.#declaredPart(type));
  }

  /** Returns the part of the declared type that an object literal is. */
  #ownerOf(literal: Node, declared: Type): Type | undefined {
    const contextual = this.#checker.getContextualType(
      literal as Parameters<Checker["getContextualType"]>[0],
    );
    const type = declared.isTypeParameter() ? contextual : declared;
    return type && (this.#checker.getNonNullableType(type) ?? type);
  }

  #declaredPart(type: Type): Type {
    return this.#checker.getNonNullableType(type) ?? type;
  }

  #spread(property: Node): ReadonlyMap<string, Field> {
    const { expression } = property as Node & { expression?: Node };
    const type = expression && this.#checker.getTypeAtLocation(expression);
    if (!type || (type.flags & TypeFlags.Any) !== 0) throw new Underivable("an option of type any is spread");
    const shape = this.#types.read(type);
    if (shape.kind === "object") return shape.fields;
    const members = this.#types.members.members(type, undefined);
    return new Map([...members.fields].map(([name, field]) => [name, { ...field, isReadonly: false }]));
  }

  #array(literal: Node, declared: Type | undefined): Shape {
    const { elements } = literal as Node & { readonly elements: readonly Node[] };
    if (elements.length === 0 || elements.some(({ kind }) => kind === SyntaxKind.SpreadElement))
      return declared && !declared.isTypeParameter() && elements.length === 0
        ? this.#types.read(declared)
        : this.#ofType(literal, declared);
    const contextual = this.#checker.getContextualType(
      literal as Parameters<Checker["getContextualType"]>[0],
    );
    if (contextual && this.#isTupleContext(contextual))
      return this.#types.read(this.#checker.getTypeAtLocation(literal) ?? contextual);
    const elementType = declared && this.#elementOf(declared);
    return {
      kind: "array",
      element: unionOf(elements.map((element) => this.value(element, elementType))),
      isReadonly: false,
    };
  }

  #isTupleContext(type: Type): boolean {
    const parts = type.isUnionType() ? type.getTypes() : [type];
    return parts.some((part) => this.#checker.isTupleType(part));
  }

  #elementOf(declared: Type): Type | undefined {
    const parts = declared.isUnionType() ? declared.getTypes() : [declared];
    for (const part of parts) {
      if (!this.#checker.isArrayType(part) || !part.isTypeReference()) continue;
      return this.#checker.getTypeArguments(part)[0];
    }
    return undefined;
  }

  /** A function takes what the module passes to it, as far as it declares parameters, and returns what it returns. */
  #function(node: Node): Shape {
    const expected = this.#checker.getContextualType(node as Parameters<Checker["getContextualType"]>[0]);
    const bare = expected && (this.#checker.getNonNullableType(expected) ?? expected);
    const [signature] = bare ? this.#signaturesOf(bare) : [];
    const type = this.#checker.getTypeAtLocation(node);
    const [ownSignature] = type ? this.#checker.getSignaturesOfType(type, SignatureKind.Call) : [];
    if (!ownSignature) throw new Underivable("a callback has no signature");
    const { parameters: nodes } = node as Node & { readonly parameters: readonly ParameterNode[] };
    const named = nodes.filter(({ name }) => name.text !== "this");
    const parameters = [
      ...named.map((parameter, index) => this.#callbackParameter(parameter, index, signature, ownSignature)),
      ...this.#unnamedParameters(signature, named.length),
    ];
    const result = this.#callbackResult(signature, ownSignature);
    const passedThrough = returnedParameter(node, nodes);
    const at = passedThrough === undefined ? undefined : parameters[passedThrough];
    if (at?.shape.kind === "reference") {
      // The module requires its own object back, of which the callback knows a part.
      const type: Shape = { kind: "parameter", name: "Value", isForeign: false };
      const changed = parameters.map((parameter) => (parameter === at ? { ...at, shape: type } : parameter));
      const signature = {
        typeParameters: [{ name: "Value", constraint: at.shape }],
        parameters: changed,
        result: valueResult(type),
      };
      return { kind: "function", signatures: [signature] };
    }
    const isAnnotated = nodes.some(({ type: annotation }) => annotation !== undefined);
    return { kind: "function", signatures: [{ typeParameters: [], parameters, result }], isAnnotated };
  }

  /** A callback that takes an error or a value has both parameters, whatever a caller names. */
  #unnamedParameters(expected: Signature | undefined, from: number): readonly ParameterShape[] {
    if (!expected || expected.getTypeParameters().length > 0) return [];
    const [error, ...others] = this.#types.signatures.signature(expected).parameters;
    if (!error || others.length > 1 || !isErrorOrNothing(error.shape, error.isOptional)) return [];
    return [error, ...others].slice(from);
  }

  #signaturesOf(type: Type): readonly Signature[] {
    const parts = type.isUnionType() ? type.getTypes() : [type];
    return parts.flatMap((part) => [...this.#checker.getSignaturesOfType(part, SignatureKind.Call)]);
  }

  #callbackParameter(
    { dotDotDotToken, type: annotation }: ParameterNode,
    index: number,
    expected: Signature | undefined,
    ownSignature: Signature,
  ): ParameterShape {
    const source = expected && index < expected.getParameters().length ? expected : ownSignature;
    const symbol = source.getParameters()[index];
    const isRest = dotDotDotToken !== undefined;
    const expectedType =
      symbol &&
      (isRest ? this.#checker.getTypeOfSymbol(symbol) : this.#checker.getParameterType(source, index));
    const annotated = annotation && this.#checker.getTypeFromTypeNode(annotation as never);
    // The caller says what it takes; the module passes at least that.
    const isTyped = annotated && (annotated.flags & TypeFlags.Any) === 0;
    const type = isTyped ? annotated : expectedType;
    if (!symbol || !type) throw new Underivable("a parameter of a callback has no type");
    const name = expected ? parameterName(symbol, index) : `value${index + 1}`;
    return { name, shape: this.#types.read(type), isOptional: false, isRest };
  }

  #callbackResult(expected: Signature | undefined, ownSignature: Signature): ResultShape {
    const returned = expected && this.#checker.getReturnTypeOfSignature(expected);
    if (returned && (returned.flags & TypeFlags.Void) !== 0) return valueResult(VOID);
    if (returned && (returned.flags & (TypeFlags.Any | TypeFlags.Unknown)) !== 0) return valueResult(UNKNOWN);
    const type = this.#checker.getReturnTypeOfSignature(ownSignature);
    if (!type) return valueResult(UNKNOWN);
    if ((type.flags & TypeFlags.Any) !== 0)
      return valueResult(returned ? this.#types.read(returned) : UNKNOWN);
    return valueResult(this.widened(type, returned));
  }
}

type PropertyNode = Node & {
  readonly name?: Node & { readonly text?: string };
  readonly initializer?: Node;
};

type ParameterNode = Node & {
  readonly name: Node & { readonly text?: string };
  readonly type?: Node;
  readonly dotDotDotToken?: Node;
};

/** Returns the index of the parameter that a function returns in each of its `return` statements. */
function returnedParameter(node: Node, parameters: readonly ParameterNode[]): number | undefined {
  const { body } = node as Node & { readonly body?: Node };
  const names = new Set<string | undefined>();
  const visit = (inner: Node): void => {
    if (isArrowFunction(inner) || isFunctionExpression(inner) || isMethodNode(inner)) return;
    if (isReturnStatement(inner)) names.add(nameOf((inner as Node & { expression?: Node }).expression));
    else inner.forEachChild(visit);
  };
  if (body && isBlock(body)) body.forEachChild(visit);
  else if (body) names.add(nameOf(body));
  const [name] = names;
  if (names.size !== 1 || name === undefined) return undefined;
  const index = parameters.findIndex((parameter) => parameter.name.text === name);
  return index < 0 ? undefined : index;
}

function nameOf(node: Node | undefined): string | undefined {
  return node && isIdentifier(node) ? node.text : undefined;
}

function isMethodNode({ kind }: Node): boolean {
  return kind === SyntaxKind.MethodDeclaration || kind === SyntaxKind.GetAccessor;
}

function isConstAssertion(node: Node): boolean {
  const { type } = node as Node & { type?: Node };
  return type?.getText() === "const";
}
