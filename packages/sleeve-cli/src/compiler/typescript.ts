/**
 * The only file that imports the native compiler's programming interface, which is not stable yet. The compiler's version is pinned.
 *
 * After an upgrade of the compiler, check:
 * - that the names below still exist, and that enumerations (`SymbolFlags`, `TypeFlags`, ...) still have the meanings used here;
 * - `compiler-process.ts`: how a request is sent (`client.apiRequest`), and how the process is ended;
 * - `configs.ts`: the numbers of `react-jsx` and `react-jsxdev`;
 * - `types/writing/type-text.ts`: the flag of symbols that a mapped type makes read-only;
 * - `conformance/candidates.ts` and `types/surface-document.ts`: how keys that are symbols are written (`__@dispose@22`);
 * - that a request about the type of `[]` still fails, or remove the workaround.
 */
export {
  type Identifier,
  ModifierFlags,
  type Node,
  type ParameterDeclaration,
  type SourceFile,
  SyntaxKind,
} from "typescript/unstable/ast";
export {
  isArrayLiteralExpression,
  isArrowFunction,
  isAsExpression,
  isAwaitExpression,
  isBinaryExpression,
  isBindingElement,
  isBlock,
  isCallExpression,
  isClassLikeDeclaration,
  isConstructorDeclaration,
  isElementAccessExpression,
  isExportSpecifier,
  isFunctionDeclaration,
  isFunctionExpression,
  isGetAccessorDeclaration,
  isHeritageClause,
  isIdentifier,
  isImportDeclaration,
  isImportEqualsDeclaration,
  isImportTypeNode,
  isInterfaceDeclaration,
  isMethodDeclaration,
  isNamespaceImport,
  isNewExpression,
  isNonNullExpression,
  isNumericLiteral,
  isObjectBindingPattern,
  isObjectLiteralExpression,
  isParenthesizedExpression,
  isPrefixUnaryExpression,
  isPropertyAccessExpression,
  isPropertyAssignment,
  isPropertyDeclaration,
  isQualifiedName,
  isReturnStatement,
  isSatisfiesExpression,
  isSetAccessorDeclaration,
  isShorthandPropertyAssignment,
  isTaggedTemplateExpression,
  isTypeAssertion,
  isTypePredicateNode,
  isTypeQueryNode,
  isVariableDeclaration,
} from "typescript/unstable/ast/is";
export type { FileSystem } from "typescript/unstable/fs";
export {
  API,
  type Checker,
  type CompilerOptions,
  type Diagnostic,
  DiagnosticCategory,
  ElementFlags,
  ModuleKind,
  type NodeHandle,
  ObjectFlags,
  type Project,
  type Signature,
  SignatureKind,
  type Snapshot,
  type Symbol as CompilerSymbol,
  SymbolFlags,
  type TupleType,
  type Type,
  TypeFlags,
  type TypeParameter,
  TypePredicateKind,
  type TypeReference,
} from "typescript/unstable/sync";
