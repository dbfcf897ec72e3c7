import { modifiersOf } from "../../compiler/syntax.ts";
import { isIdentifier, ModifierFlags, type Node, SyntaxKind } from "../../compiler/typescript.ts";
import type { CallerCode } from "./caller-code.ts";

/** A type of the project that a scenario mentions: of a file that exports it, or copied. */
export type ScenarioType =
  | { readonly kind: "imported"; readonly name: string; readonly path: string }
  | { readonly kind: "copied"; readonly name: string; readonly text: string };

const DECLARED: ReadonlySet<SyntaxKind> = new Set([
  SyntaxKind.InterfaceDeclaration,
  SyntaxKind.TypeAliasDeclaration,
]);
const LONGEST = 800;

/** Finds the types that the code of callers mentions, so that scenarios can mention them. */
export class ScenarioTypes {
  readonly #code: CallerCode;
  /** Types that are being read, which may mention each other. */
  readonly #open = new Set<Node>();
  readonly #byDeclaration = new Map<Node, ScenarioType | undefined>();

  constructor(code: CallerCode) {
    this.#code = code;
  }

  /** Returns the types that a type mentions; `undefined` if the type depends on its surroundings. */
  mentionedIn(type: Node): readonly ScenarioType[] | undefined {
    const mentioned: ScenarioType[] = [];
    const visit = (node: Node): boolean => {
      if (isIdentifier(node)) return isMemberName(node) || this.#add(node, type, mentioned);
      let isKnown = node.kind !== SyntaxKind.TypeQuery && node.kind !== SyntaxKind.ImportType;
      node.forEachChild((child) => {
        isKnown &&= visit(child);
      });
      return isKnown;
    };
    return visit(type) ? mentioned : undefined;
  }

  #add(name: Node, within: Node, mentioned: ScenarioType[]): boolean {
    const declaration = this.#code.declarationOf(name);
    if (!declaration) return name.getText() === "const";
    if (isWithin(declaration, within)) return true;
    if (declaration.getSourceFile().isDeclarationFile)
      return /\/(?:typescript|@types\/node)\//.test(declaration.getSourceFile().fileName);
    const type = this.#typeAt(declaration);
    if (!type || type.name !== name.getText()) return false;
    if (type.kind === "imported" || this.#open.has(declaration)) {
      mentioned.push(type);
      return true;
    }
    this.#open.add(declaration);
    const inner = this.mentionedIn(declaration);
    this.#open.delete(declaration);
    mentioned.push(...(inner ?? []), type);
    return inner !== undefined;
  }

  #typeAt(declaration: Node): ScenarioType | undefined {
    if (!this.#byDeclaration.has(declaration)) this.#byDeclaration.set(declaration, typeOf(declaration));
    return this.#byDeclaration.get(declaration);
  }
}

function typeOf(declaration: Node): ScenarioType | undefined {
  const { name } = declaration as Node & { name?: Node };
  const source = declaration.getSourceFile();
  if (!name || declaration.parent !== source) return undefined;
  const isExported = (modifiersOf(declaration) & ModifierFlags.Export) !== 0;
  if (isExported) return { kind: "imported", name: name.getText(), path: source.fileName };
  const text = declaration.getText();
  if (!DECLARED.has(declaration.kind) || text.length > LONGEST) return undefined;
  return { kind: "copied", name: name.getText(), text };
}

/** Whether an identifier names a member, a parameter or the declared type itself. */
function isMemberName(node: Node): boolean {
  const { name } = node.parent as Node & { name?: Node };
  return name === node;
}

function isWithin(node: Node, outer: Node): boolean {
  return node.getSourceFile() === outer.getSourceFile() && outer.pos <= node.pos && node.end <= outer.end;
}
