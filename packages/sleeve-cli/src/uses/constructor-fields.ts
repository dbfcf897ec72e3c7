import {
  type Checker,
  type CompilerSymbol,
  isBinaryExpression,
  isFunctionDeclaration,
  isFunctionExpression,
  isIdentifier,
  isMethodDeclaration,
  isObjectLiteralExpression,
  isPropertyAccessExpression,
  isPropertyAssignment,
  isVariableDeclaration,
  type Node,
  type SourceFile,
  SyntaxKind,
} from "../compiler/typescript.ts";

/** A value that a constructor function of a script assigns to a field. */
interface FieldValue {
  /** Name of the constructor function. */
  readonly owner: string;
  readonly field: string;
  readonly value: Node;
}

/** By source file, because each file is queried several times. */
const valuesBySource = new WeakMap<SourceFile, readonly FieldValue[]>();

/**
 * Returns the member that a name such as `lift` in `this.crane.lift` refers to, in a constructor function of a script
 * or in a function of its prototype. The compiler does not know the fields of such objects.
 */
export function memberOfField(node: Node, checker: Checker): CompilerSymbol | undefined {
  const source = node.getSourceFile();
  const access = node.parent;
  if (!/\.[cm]?jsx?$/.test(source.fileName) || !isPropertyAccessExpression(access) || access.name !== node)
    return undefined;
  const field = fieldOfThis(access.expression);
  const owner = field && constructorOver(field.receiver);
  if (!field || owner === undefined) return undefined;
  for (const candidate of fieldValuesIn(source)) {
    if (candidate.owner !== owner || candidate.field !== field.name) continue;
    const type = checker.getTypeAtLocation(candidate.value);
    const member = type && checker.getPropertyOfType(type, (node as Node & { text: string }).text);
    if (member) return member;
  }
  return undefined;
}

/** `crane` of `this.crane`, or of `self.crane` after `var self = this`. */
function fieldOfThis(node: Node): { readonly name: string; readonly receiver: Node } | undefined {
  if (!isPropertyAccessExpression(node)) return undefined;
  const { expression, name } = node as Node & { expression: Node; name: Node & { text: string } };
  const isThis = expression.kind === SyntaxKind.ThisKeyword || isNameOfThis(expression);
  return isThis ? { name: name.text, receiver: expression } : undefined;
}

/** Whether a name is declared as `var self = this` in a function around it. */
function isNameOfThis(node: Node): boolean {
  if (!isIdentifier(node)) return false;
  const { text } = node;
  for (let scope: Node | undefined = node.parent; scope; scope = scope.parent) {
    let isDeclared = false;
    const visit = (child: Node): void => {
      const { name, initializer } = child as Node & { name?: Node & { text?: string }; initializer?: Node };
      if (isVariableDeclaration(child) && name?.text === text)
        isDeclared ||= initializer?.kind === SyntaxKind.ThisKeyword;
      if (!isFunctionWithThis(child)) child.forEachChild(visit);
    };
    if (isFunctionWithThis(scope)) scope.forEachChild(visit);
    if (isDeclared) return true;
  }
  return false;
}

function isFunctionWithThis(node: Node): boolean {
  return isFunctionDeclaration(node) || isFunctionExpression(node) || isMethodDeclaration(node);
}

function fieldValuesIn(source: SourceFile): readonly FieldValue[] {
  const cached = valuesBySource.get(source);
  if (cached) return cached;
  const values: FieldValue[] = [];
  const visit = (node: Node): void => {
    if (isBinaryExpression(node) && node.operatorToken.kind === SyntaxKind.EqualsToken) {
      const field = fieldOfThis(node.left);
      const owner = field && constructorOver(field.receiver);
      if (field && owner !== undefined) values.push({ owner, field: field.name, value: node.right });
    }
    node.forEachChild(visit);
  };
  source.forEachChild(visit);
  valuesBySource.set(source, values);
  return values;
}

/** Returns the name of the constructor function that a `this` belongs to: the function itself, or one of its prototype. */
function constructorOver(node: Node): string | undefined {
  for (let at: Node | undefined = node; at; at = at.parent) {
    if (!isFunctionWithThis(at)) continue;
    const owner = ownerOf(at);
    // A plain function inside, whose `this` is used under another name.
    if (owner !== undefined) return owner;
  }
  return undefined;
}

function ownerOf(node: Node): string | undefined {
  const { name, parent } = node as Node & { name?: Node & { text?: string } };
  if (isFunctionDeclaration(node)) return name?.text;
  if (isVariableDeclaration(parent)) return (parent as Node & { name: { text?: string } }).name.text;
  if (isBinaryExpression(parent)) return prototypeOwner(parent.left) ?? lastName(parent.left);
  const literal = isPropertyAssignment(parent) ? parent.parent : parent;
  if (!isObjectLiteralExpression(literal)) return undefined;
  const over = literal.parent;
  if (isBinaryExpression(over)) return prototypeOwner(over.left);
  const { arguments: [argument] = [] } = over as Node & { arguments?: readonly Node[] };
  return argument && argument !== literal ? prototypeOwner(argument) : undefined;
}

/** `Crew` of `Crew.prototype.lift`, and of `Crew.prototype`. */
function prototypeOwner(node: Node): string | undefined {
  for (let at = node; isPropertyAccessExpression(at); at = at.expression)
    if ((at.name as Node & { text?: string }).text === "prototype") return lastName(at.expression);
  return undefined;
}

/** `Crew` of `exports.Crew`, and of `Crew`. */
function lastName(node: Node): string | undefined {
  if (isIdentifier(node)) return node.text;
  return isPropertyAccessExpression(node) ? (node.name as Node & { text?: string }).text : undefined;
}
