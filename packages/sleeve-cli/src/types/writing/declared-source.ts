import { aliasTarget } from "../../compiler/syntax.ts";
import {
  type Checker,
  type CompilerSymbol,
  isIdentifier,
  isImportTypeNode,
  isQualifiedName,
  isTypePredicateNode,
  isTypeQueryNode,
  type Node,
  type Signature,
  SymbolFlags,
  SyntaxKind,
  type Type,
} from "../../compiler/typescript.ts";
import type { ParameterParts, SignatureParts } from "./signature-parts.ts";
import { Uncopiable } from "./type-names.ts";

/**
 * Returns the source of a declared type, parameter or type parameter, with each type name replaced by the
 * result of `nameOf`. Calls `read` for each access to a member of a type.
 *
 * @throws {Uncopiable} for a `typeof` query, or if `nameOf` throws it
 */
export function declaredWords(
  checker: Checker,
  node: Node,
  read: (owner: Type, index: Type) => void,
  nameOf: (symbol: CompilerSymbol) => string,
): string {
  const source = node.getSourceFile();
  const start = node.getStart(source);
  const replaced: { readonly start: number; readonly end: number; readonly text: string }[] = [];
  const replace = (name: Node, replacedNode: Node, end: number): void => {
    const symbol = checker.getSymbolAtLocation(name);
    const target = symbol && aliasTarget(checker, symbol);
    if (!target || checker.isUnknownSymbol(target))
      throw new Uncopiable(`${name.getText(source)} cannot be resolved`);
    if ((target.flags & SymbolFlags.TypeParameter) !== 0) return;
    replaced.push({ start: replacedNode.getStart(source), end, text: nameOf(target) });
  };
  const visit = (node: Node): void => {
    if (isTypeQueryNode(node)) throw new Uncopiable("it is the type of a value");
    if (isImportTypeNode(node)) {
      const { qualifier, typeArguments = [] } = node as Node & {
        qualifier?: Node;
        typeArguments?: readonly Node[];
      };
      if (!qualifier) throw new Uncopiable("it is the type of a module");
      replace(isQualifiedName(qualifier) ? qualifier.right : qualifier, node, qualifier.end);
      typeArguments.forEach(visit);
      return;
    }
    if (isQualifiedName(node)) {
      replace(node.right, node, node.end);
      return;
    }
    if (isIdentifier(node)) {
      if (namesType(node)) replace(node, node, node.end);
      return;
    }
    if (node.kind === SyntaxKind.IndexedAccessType) {
      const { objectType, indexType } = node as Node & { objectType: Node; indexType: Node };
      const [owner, index] = [objectType, indexType].map((part) =>
        checker.getTypeFromTypeNode(part as never),
      );
      if (owner && index) read(owner, index);
    }
    node.forEachChild(visit);
  };
  visit(node);
  const text = source.text.slice(start, node.end);
  const parts: string[] = [];
  let at = start;
  for (const { start: from, end, text: name } of replaced.sort((left, right) => left.start - right.start)) {
    parts.push(source.text.slice(at, from), name);
    at = end;
  }
  const words = replaced.length > 0 ? `${parts.join("")}${source.text.slice(at, node.end)}` : text;
  return words.replace(COMMENT, (_, text: string | undefined) => text ?? " ").trim();
}

interface DeclaredSignature {
  readonly typeParameters?: readonly Node[];
  readonly parameters?: readonly DeclaredParameter[];
  readonly type?: Node;
}

interface DeclaredParameter {
  readonly name: Node;
  readonly dotDotDotToken?: Node;
  readonly questionToken?: Node;
  readonly initializer?: Node;
  readonly type?: Node;
}

/**
 * Returns the parts of a signature as its declaration writes them.
 *
 * @param words returns the source of a declared type or type parameter
 * @throws {Uncopiable} if a type is not stated, or if `words` throws it
 */
export function declaredSignature({ declaration }: Signature, words: (node: Node) => string): SignatureParts {
  const node = declaration?.resolve() as DeclaredSignature | undefined;
  if (!node?.type || !node.parameters) throw new Uncopiable("its declaration does not state its types");
  const { typeParameters = [], parameters, type } = node;
  return {
    typeParameters: typeParameters.length > 0 ? `<${typeParameters.map(words).join(", ")}>` : "",
    parameters: parameters.map((parameter, index) => declaredParameter(parameter, index, words)),
    result: declaredResult(type, words),
  };
}

function declaredParameter(
  { name, dotDotDotToken, questionToken, initializer, type }: DeclaredParameter,
  index: number,
  words: (node: Node) => string,
): ParameterParts {
  if (!type) throw new Uncopiable("its declaration does not state its types");
  return {
    // A parameter that is taken apart has no name.
    name: isIdentifier(name) ? name.getText() : `argument${index + 1}`,
    isRest: dotDotDotToken !== undefined,
    isOptional: questionToken !== undefined || initializer !== undefined,
    type: words(type),
  };
}

function declaredResult(type: Node, words: (node: Node) => string): SignatureParts["result"] {
  if (!isTypePredicateNode(type)) return words(type);
  const predicate = type as Node & { assertsModifier?: Node; parameterName: Node; type?: Node };
  return {
    isAssertion: predicate.assertsModifier !== undefined,
    parameter: predicate.parameterName.getText(),
    type: predicate.type && words(predicate.type),
  };
}

/** Text in quotes, which stays, and comments and line ends, which become a space. */
const COMMENT =
  /("(?:[^"\\]|\\.)*"|'(?:[^'\\]|\\.)*'|`(?:[^`\\]|\\[\s\S])*`)|\s*(?:\/\*[\s\S]*?\*\/|\/\/[^\n]*|\n)\s*/g;

/** Whether an identifier names a type, rather than a member, parameter or tuple element. */
function namesType(node: Node): boolean {
  const { parent } = node;
  if (isTypePredicateNode(parent)) return (parent as Node & { type?: Node }).type === node;
  return parent.kind === SyntaxKind.TypeReference || parent.kind === SyntaxKind.ExpressionWithTypeArguments;
}
