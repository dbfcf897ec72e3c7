import {
  type Checker,
  isArrowFunction,
  isCallExpression,
  isFunctionDeclaration,
  isFunctionExpression,
  isMethodDeclaration,
  type Node,
  SignatureKind,
  type Type,
} from "../../compiler/typescript.ts";
import { type AdapterMapping, awaited, clientTypeOf, type Exported } from "../exported.ts";
import type { FoundValue, MemberOwner } from "./found-value.ts";
import { memberCode } from "./member-code.ts";
import { isOfUntypedModule } from "./outside-values.ts";
import { ValueReader } from "./value-reader.ts";
import { type MemberCode, stripped, type WrapperCode } from "./wrapper-code.ts";

/** What really implements a target: the code and types behind annotations, assertions, names and factories. */
export interface Implementation {
  /** Where its members are, the first that has one counts. */
  readonly owners: readonly MemberOwner[];
  readonly code: WrapperCode;
  /** The expression that was followed in vain, if its type is only that of the target. */
  readonly notFound: Node | undefined;
  /** The mapping, if the library's `adapter` creates it. */
  readonly mapping: AdapterMapping | undefined;
}

/**
 * Finds what implements a target: follows names, imports, assertions, variables, factories, base classes, mixins,
 * spreads, `Object.assign` and its like, and this library's wrappers, to classes, object literals and functions. A
 * factory or a condition can lead to several; if `MAX_VALUES` are returned, there may be more.
 */
export function implementationsOf(
  exported: Exported,
  target: Type,
  isOwn: (path: string) => boolean,
): readonly Implementation[] {
  const { checker, declaration } = exported;
  if (!declaration) return [];
  const reader = new ValueReader(checker, isOwn);
  const values = reader
    .declared(declaration, exported.symbol)
    .flatMap((value) =>
      heldByClients(checker, reader, value, target, checker.getTypeOfSymbol(exported.symbol)),
    );
  return values.map((found) => {
    // What a module without types exports is as it is annotated.
    const isUntyped = found.kind === "unknown" && isOfUntypedModule(checker, found.node);
    const value: FoundValue = isUntyped
      ? { ...found, kind: "object", type: target, owners: [{ type: target }] }
      : found;
    const isKnown = value.kind !== "unknown" || value.type.id !== target.id || reader.isGiven(value.node);
    return { ...implementation(declaration, value), notFound: isKnown ? undefined : value.node };
  });
}

/** Returns what clients hold: instances of a class, results of a factory, or the value itself. */
function heldByClients(
  checker: Checker,
  reader: ValueReader,
  value: FoundValue,
  target: Type,
  annotated: Type | undefined,
): readonly FoundValue[] {
  // A value that is annotated with the target is neither its class nor its factory.
  if (annotated?.id === target.id) return [value];
  const isConstructed = checker.getSignaturesOfType(target, SignatureKind.Construct).length > 0;
  if (value.kind === "class" && !isConstructed) return reader.instancesOf(value);
  const clientType = clientTypeOf(checker, value.type, target);
  if (clientType.id === value.type.id) return [value];
  const results = value.kind === "function" ? reader.resultsOf(value) : [];
  if (results.length === 0) {
    const kind = value.kind === "object" ? "object" : "unknown";
    return [{ ...value, kind, type: clientType, owners: [{ type: clientType }] }];
  }
  const [signature] = annotated ? checker.getSignaturesOfType(annotated, SignatureKind.Call) : [];
  const returned = signature && checker.getReturnTypeOfSignature(signature);
  return results.flatMap((result) =>
    // A function that returns itself ends here.
    result.node === value.node
      ? []
      : heldByClients(checker, reader, result, target, returned && (awaited(checker, returned) ?? returned)),
  );
}

function implementation(declaration: Node, value: FoundValue): Omit<Implementation, "notFound"> {
  const { owners, members, classNode, making, values, declarations, mapping } = value;
  const self = value.kind === "function" ? selfCode(value.node) : [];
  const mapped = [...(mapping?.entries ?? [])].flatMap(
    ([name, node]) => memberCode(name, node, 1, () => undefined) ?? [],
  );
  return {
    owners,
    mapping,
    code: {
      declarations: [...new Set([declaration, ...declarations])],
      classNode,
      members: new Map([...members, ...[...self, ...mapped].map((code) => [code.name, code] as const)]),
      making,
      values,
    },
  };
}

/** The call of a function counts as a member. */
function selfCode(node: Node): readonly MemberCode[] {
  const isFunction =
    isArrowFunction(node) ||
    isFunctionExpression(node) ||
    isFunctionDeclaration(node) ||
    isMethodDeclaration(node);
  if (!isFunction || !node.body) return [];
  const { parameters, body } = node;
  return [
    {
      name: "()",
      node,
      definition: node,
      body,
      value: undefined,
      parameters,
      leading: 0,
      isBound: isArrowFunction(node),
    },
  ];
}

/** Whether a wrapper is created by a function named `facade`, or is a class named as one. */
export function madeByFacade({ classNode, values }: WrapperCode): boolean {
  const { name } = (classNode ?? {}) as { name?: Node & { text?: string } };
  if (name?.text?.endsWith("Facade")) return true;
  return values.some((value) => {
    const call = stripped(value);
    return isCallExpression(call) && call.expression.getText() === "facade";
  });
}
