import {
  isCallExpression,
  isIdentifier,
  isPropertyAccessExpression,
  isShorthandPropertyAssignment,
  type Node,
  SyntaxKind,
} from "../../compiler/typescript.ts";
import type { CallerCode } from "./caller-code.ts";
import {
  canReplace,
  changedBy,
  FORBIDDEN,
  hasOwnPlace,
  hasOwnThis,
  isConsoleCall,
  isFunctionNode,
  isNameOnly,
  isPrimary,
  PURE_GLOBALS,
} from "./caller-syntax.ts";
import { sampleValue } from "./sample-values.ts";
import {
  constantToken,
  type Needs,
  NotSelfContained,
  noNeeds,
  PRINTED,
  type ScenarioLine,
  type TargetObject,
  thrownCode,
} from "./scenario-line.ts";
import type { ScenarioTypes } from "./scenario-types.ts";
import { codeOfNode } from "./typed-code.ts";
import { type Expression, FILE_LEVEL, type Scope, type ValueFlow, withoutAssertion } from "./value-flow.ts";

/** Longer values are constants of their own. */
const LONGEST_INLINE = 60;
const LONGEST = 600;

/** The lines of a scenario, from code of callers in which every name is replaced by its value. */
export class ScenarioCode {
  readonly #code: CallerCode;
  readonly #flow: ValueFlow;
  readonly #target: TargetObject;
  readonly #types: ScenarioTypes;
  #lines: ScenarioLine[] = [];
  #constants = new Map<Node, Map<Scope, string>>();
  /** Errors that callers catch, by the variables that hold them. */
  #errors = new Map<Node, { readonly code: string; readonly needs: Needs }>();
  #isHandling = false;
  /** Number of constants so far. */
  #count = 0;
  /** Functions and classes that were copied. */
  readonly copies: Set<Node> = new Set();
  /** Uses of members that are part of the code. */
  readonly uses: Set<Node> = new Set();
  /** Values that are being read, by their code. */
  readonly #open = new Map<Node, Set<Scope>>();
  /** Those that are being copied, the innermost last. */
  readonly #copied: Node[] = [];

  constructor(code: CallerCode, flow: ValueFlow, types: ScenarioTypes, target: TargetObject) {
    this.#types = types;
    this.#code = code;
    this.#flow = flow;
    this.#target = target;
  }

  get lines(): readonly ScenarioLine[] {
    return this.#lines;
  }

  add(line: Omit<ScenarioLine, "isHandled">): void {
    this.#lines.push({ ...line, isHandled: this.#isHandling });
  }

  /** Runs something that adds lines. If it throws, nothing is added. */
  attempt(run: () => void): void {
    const lines = [...this.#lines];
    const constants = new Map([...this.#constants].map(([node, byScope]) => [node, new Map(byScope)]));
    try {
      run();
    } catch (error) {
      this.#lines = lines;
      this.#constants = constants;
      throw error;
    }
  }

  /**
   * Returns the code of an expression without names of its surroundings.
   *
   * @throws {NotSelfContained}
   */
  codeOf({ node, scope }: Expression, needs: Needs): string {
    const code = this.#text(withoutAssertion(node), scope, needs);
    if (code.length > LONGEST) throw new NotSelfContained("it is long");
    return code;
  }

  /**
   * Returns the token of a constant with the value of a variable or parameter. Adds it if there is none.
   *
   * @throws {NotSelfContained}
   */
  constantFor(name: string, value: Expression, needs: Needs, type?: Node): string {
    return this.#valueCode(name, value, needs, type, true).text;
  }

  /** Runs something that adds the lines of a `try`, and sets the error that a variable holds. */
  handling(variable: Node | undefined, run: () => void): void {
    const before = new Set(this.#lines);
    const wasHandling = this.#isHandling;
    this.#isHandling = true;
    run();
    this.#isHandling = wasHandling;
    const added = this.#lines.filter((line) => !before.has(line));
    const last = added.findLastIndex(({ kind }) => kind !== "constant");
    if (!variable || last < 0) return;
    this.#errors.set(variable, thrownCode(added.slice(0, last + 1)));
    // In a loop, each round has an error of its own.
    this.#constants.delete(variable);
  }

  /** Adds a constant, and returns the token of its name. */
  addConstant(name: string, code: string, needs: Needs, type?: string, isHandled = this.#isHandling): string {
    const token = constantToken(name, this.#count++);
    this.#addLine(token, { code, needs, type, isHandled });
    return token;
  }

  #addLine(name: string, line: Pick<ScenarioLine, "code" | "needs" | "type" | "isHandled">): void {
    this.#lines.push({ ...line, kind: "constant", name, members: [] });
  }

  #text(node: Node, scope: Scope, needs: Needs): string {
    const text = this.#textOf(node, scope, needs);
    this.uses.add(node);
    return text;
  }

  #textOf(node: Node, scope: Scope, needs: Needs): string {
    const reason = FORBIDDEN.get(node.kind);
    if (reason !== undefined) throw new NotSelfContained(reason);
    if (node.kind === SyntaxKind.ThisKeyword && !this.#copied.some(hasOwnThis))
      throw new NotSelfContained("it uses `this`");
    if (isIdentifier(node)) return this.#name(node, scope, needs);
    if (isShorthandPropertyAssignment(node)) {
      const code = this.#name(node.name, scope, needs);
      return code === node.name.getText() ? code : `${node.name.getText()}: ${code}`;
    }
    if (isFunctionNode(node)) return this.#copy(node, scope, needs);
    if (node.kind === SyntaxKind.AwaitExpression && this.#copied.length === 0) needs.hasAwait = true;
    this.#requireNoAssignment(node);
    const field = this.#field(node, needs);
    if (field !== undefined) return field;
    const followed = this.#followed(node, scope);
    if (followed) return this.#inPlace(node, followed, needs);
    if (this.#copied.length > 0 && isConsoleCall(node)) return this.#printed(node, scope, needs);
    return this.#parts(node, scope, needs);
  }

  #parts(node: Node, scope: Scope, needs: Needs): string {
    return codeOfNode(node, {
      code: (child) => this.#childText(node, child, scope, needs),
      type: (child) => this.typeText(child, needs),
    });
  }

  /** Returns the text of a type; `undefined` if it depends on its surroundings. */
  typeText(type: Node, needs: Needs): string | undefined {
    const mentioned = this.#types.mentionedIn(type);
    for (const item of mentioned ?? []) needs.types.add(item);
    return mentioned && type.getText();
  }

  /** Returns the constant for a field of `this`, from what the class assigns to it. */
  #field(node: Node, needs: Needs): string | undefined {
    if (!isPropertyAccessExpression(node) || node.expression.kind !== SyntaxKind.ThisKeyword)
      return undefined;
    if (this.#copied.some(hasOwnThis)) return undefined;
    const value = this.#flow.fieldValue(node);
    if (!value) throw new NotSelfContained("it uses `this`");
    const code = this.#valueCode(node.name.getText().replace("#", ""), value, needs);
    return code.isPrimary ? code.text : `(${code.text})`;
  }

  /** What a callback prints is collected. */
  #printed(node: Node, scope: Scope, needs: Needs): string {
    const { arguments: args = [] } = node as Node & { arguments?: readonly Node[] };
    const list = args.map((argument) => this.#childText(node, argument, scope, needs));
    needs.constants.add(PRINTED);
    if (!this.#lines.some(({ name }) => name === PRINTED))
      this.#addLine(PRINTED, {
        code: "[]",
        needs: noNeeds(),
        type: "unknown[]",
        isHandled: this.#isHandling,
      });
    return `${PRINTED}.push(${list.join(", ")})`;
  }

  #childText(parent: Node, child: Node, scope: Scope, needs: Needs): string {
    if (isNameOnly(parent, child)) return child.getText();
    const bare = withoutAssertion(child);
    const text = this.#text(bare, scope, needs);
    const type = this.#assertedType(child, needs);
    if (type !== undefined) return `(${text} as ${type})`;
    const isReplaced = bare !== child && bare.kind !== child.kind;
    return isReplaced && !isPrimary(bare) && !hasOwnPlace(parent, child) ? `(${text})` : text;
  }

  #assertedType(node: Node, needs: Needs): string | undefined {
    const { type } = node as Node & { type?: Node };
    return node.kind === SyntaxKind.AsExpression && type ? this.typeText(type, needs) : undefined;
  }

  /** Copies a function or class. Names that it declares stay. */
  #copy(node: Node, scope: Scope, needs: Needs): string {
    this.#copied.push(node);
    this.copies.add(node);
    try {
      return this.#parts(node, scope, needs);
    } finally {
      this.#copied.pop();
    }
  }

  /** Returns the value of a property of an object that is written out, or of a call of our own function. */
  #followed(node: Node, scope: Scope): Expression | undefined {
    if (!isPropertyAccessExpression(node) && !isCallExpression(node)) return undefined;
    if (isCallExpression(node) && !isIdentifier(node.expression)) return undefined;
    const settled = this.#flow.settled({ node, scope });
    return settled.node === node || this.#isUnawaited(node) ? undefined : settled;
  }

  /** Whether a node is the promise of an asynchronous function of our own, which its result cannot replace. */
  #isUnawaited(node: Node): boolean {
    const { expression } = node as Node & { expression: Node };
    if (!isCallExpression(node) || node.parent.kind === SyntaxKind.AwaitExpression) return false;
    const { modifiers = [] } = (this.#functionOf(expression) ?? {}) as { modifiers?: readonly Node[] };
    return modifiers.some(({ kind }) => kind === SyntaxKind.AsyncKeyword);
  }

  /** Returns the function of our own that a name refers to. */
  #functionOf(name: Node): Node | undefined {
    const declaration = isIdentifier(name) ? this.#code.declarationOf(name) : undefined;
    if (!declaration || declaration.getSourceFile().isDeclarationFile || this.#isLocal(declaration))
      return undefined;
    const { initializer } = declaration as Node & { initializer?: Node };
    return [initializer, declaration].find((node) => node !== undefined && isFunctionNode(node));
  }

  #inPlace(node: Node, followed: Expression, needs: Needs): string {
    const bare = withoutAssertion(followed.node);
    const text = this.#once(node.getText(), followed, () => this.#text(bare, followed.scope, needs));
    return isPrimary(bare) || hasOwnPlace(node.parent, node) ? text : `(${text})`;
  }

  #name(node: Node, scope: Scope, needs: Needs): string {
    const name = node.getText();
    const declaration = this.#code.declarationOf(node);
    if (!declaration || declaration.getSourceFile().isDeclarationFile) {
      if (PURE_GLOBALS.has(name)) return name;
      throw new NotSelfContained(`it uses ${name}`);
    }
    if (this.#isLocal(declaration)) return name;
    const target = this.#targetCode(declaration, name);
    if (target !== undefined) {
      needs.usesTarget = true;
      return target;
    }
    const value = this.#flow.valueOf(declaration, scope);
    if (value) {
      const code = this.#valueCode(name, value, needs, (declaration as Node & { type?: Node }).type);
      return code.isPrimary || canReplace(node, value.node) ? code.text : `(${code.text})`;
    }
    if (scope.values.has(declaration)) return "undefined";
    const code = this.#withoutValue(node, declaration, scope, needs);
    if (code === undefined) throw new NotSelfContained(`${name} is known only when it runs`);
    return code;
  }

  /** Returns code for a name whose value is not written out: a caught error, a function or class, or a parameter. */
  #withoutValue(node: Node, declaration: Node, scope: Scope, needs: Needs): string | undefined {
    const name = node.getText();
    const error = this.#errors.get(declaration);
    if (error) return this.#error(name, declaration, error, needs);
    switch (declaration.kind) {
      case SyntaxKind.FunctionDeclaration:
      case SyntaxKind.ClassDeclaration:
        return this.#valueCode(name, { node: declaration, scope }, needs, undefined, true).text;
      case SyntaxKind.Parameter: {
        const type = this.#code.typeOf(node);
        return type && sampleValue(type);
      }
      default:
        return undefined;
    }
  }

  /** Returns code for what the adapter exports: its object, or a member of it for callers that keep their names. */
  #targetCode(declaration: Node, name: string): string | undefined {
    const { adapterPath, object } = this.#target;
    if (declaration.getSourceFile().fileName !== adapterPath) return undefined;
    const { name: declared, initializer } = declaration as Node & { name?: Node; initializer?: Node };
    const isObject = declaration.kind === SyntaxKind.SourceFile || (declared?.getText() ?? name) === object;
    if (isObject) return object;
    const isMember =
      initializer && isPropertyAccessExpression(initializer) && initializer.expression.getText() === object;
    return isMember ? initializer.getText() : undefined;
  }

  #isLocal(declaration: Node): boolean {
    const source = declaration.getSourceFile();
    return this.#copied.some(
      (copied) =>
        copied.getSourceFile() === source && copied.pos <= declaration.pos && declaration.end <= copied.end,
    );
  }

  #error(
    name: string,
    variable: Node,
    { code, needs: errorNeeds }: { code: string; needs: Needs },
    needs: Needs,
  ): string {
    const byScope = this.#constants.get(variable) ?? new Map<Scope, string>();
    this.#constants.set(variable, byScope);
    const constant = byScope.get(FILE_LEVEL) ?? this.addConstant(name, code, errorNeeds, undefined, true);
    byScope.set(FILE_LEVEL, constant);
    needs.constants.add(constant);
    needs.usesTarget = true;
    return constant;
  }

  /** Returns code for a value: a constant if it is long or uses the target, so that it is made once. */
  #valueCode(
    name: string,
    value: Expression,
    needs: Needs,
    type?: Node,
    isConstant = false,
  ): { readonly text: string; readonly isPrimary: boolean } {
    const byScope = this.#constants.get(value.node) ?? new Map<Scope, string>();
    this.#constants.set(value.node, byScope);
    const constant = byScope.get(value.scope);
    if (constant !== undefined) {
      needs.constants.add(constant);
      return { text: constant, isPrimary: true };
    }
    const valueNeeds = noNeeds();
    const code = this.#once(name, value, () => this.#initialCode(value, valueNeeds));
    const isName = valueNeeds.constants.has(code) || code === this.#target.object;
    if (isName || !(isConstant || valueNeeds.usesTarget || code.length > LONGEST_INLINE)) {
      for (const token of valueNeeds.constants) needs.constants.add(token);
      for (const mentioned of valueNeeds.types) needs.types.add(mentioned);
      needs.usesTarget ||= valueNeeds.usesTarget;
      needs.hasAwait ||= valueNeeds.hasAwait;
      return { text: code, isPrimary: isName || isPrimary(withoutAssertion(value.node)) };
    }
    const added = this.addConstant(name, code, valueNeeds, type && this.typeText(type, valueNeeds));
    byScope.set(value.scope, added);
    needs.constants.add(added);
    return { text: added, isPrimary: true };
  }

  /** Reads a value that must not contain itself. */
  #once(name: string, { node, scope }: Expression, read: () => string): string {
    const scopes = this.#open.get(node) ?? new Set<Scope>();
    if (scopes.has(scope)) throw new NotSelfContained(`${name} refers to itself`);
    this.#open.set(node, scopes.add(scope));
    try {
      return read();
    } finally {
      scopes.delete(scope);
    }
  }

  #initialCode({ node, scope }: Expression, needs: Needs): string {
    const bare = withoutAssertion(node);
    const isDeclared =
      bare.kind === SyntaxKind.FunctionDeclaration || bare.kind === SyntaxKind.ClassDeclaration;
    if (isDeclared) return this.#copy(bare, scope, needs);
    const code = this.codeOf({ node: bare, scope }, needs);
    const type = this.#assertedType(node, needs);
    return type === undefined ? code : `${code} as ${type}`;
  }

  #requireNoAssignment(node: Node): void {
    const leaf = changedBy(node);
    if (!leaf || (leaf.kind === SyntaxKind.ThisKeyword && this.#copied.some(hasOwnThis))) return;
    const declaration = isIdentifier(leaf) ? this.#code.declarationOf(leaf) : undefined;
    if (!declaration || !this.#isLocal(declaration))
      throw new NotSelfContained(`it changes ${leaf.getText()}`);
  }
}
