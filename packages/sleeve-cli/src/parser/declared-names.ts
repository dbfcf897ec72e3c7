import { type Node, Visitor } from "oxc-parser";
import { isDeep, parse } from "./parse.ts";

/** The names that a declaration file declares. */
export interface DeclaredNames {
  /** Every name under which a declaration can be used, including members. */
  readonly names: ReadonlySet<string>;
  /** Whether a class or interface extends another, whose members it then has too. */
  readonly hasHeritage: boolean;
  /** Whether it declares something global. */
  readonly hasGlobals: boolean;
}

/**
 * Collects the names in a declaration file, to find other files that may mention one. Of a file that is nested too
 * deeply to be parsed, returns every word.
 */
export function declaredNamesOf(path: string, text: string): DeclaredNames {
  if (isDeep(path, text)) return { names: wordsIn(text), hasHeritage: true, hasGlobals: true };
  const names = new Set<string>();
  let hasHeritage = false;
  const { program, module } = parse(path, text);
  const hasGlobals = !module.hasModuleSyntax || /\bglobal\s*\{/.test(text);
  const add = (node: Node | null | undefined) => {
    if (node?.type === "Identifier" || node?.type === "PrivateIdentifier") names.add(node.name);
    else if (node?.type === "Literal") names.add(String(node.value));
  };
  const declaration = ({ id }: { id?: Node | null }) => add(id);
  const member = ({ key }: { key: Node }) => add(key);
  new Visitor({
    FunctionDeclaration: declaration,
    TSDeclareFunction: declaration,
    VariableDeclarator: declaration,
    TSTypeAliasDeclaration: declaration,
    TSEnumDeclaration: declaration,
    TSModuleDeclaration: declaration,
    TSEnumMember: declaration,
    ClassDeclaration: ({ id, superClass }) => {
      add(id);
      hasHeritage ||= superClass !== null;
    },
    TSInterfaceDeclaration: ({ id, extends: parents }) => {
      add(id);
      hasHeritage ||= parents.length > 0;
    },
    TSPropertySignature: member,
    TSMethodSignature: member,
    PropertyDefinition: member,
    MethodDefinition: member,
    TSAbstractPropertyDefinition: member,
    TSAbstractMethodDefinition: member,
    AccessorProperty: member,
    TSAbstractAccessorProperty: member,
    ExportSpecifier: ({ exported }) => add(exported),
    // A mapped type over literals declares its members.
    TSLiteralType: ({ literal }) => add(literal),
  }).visit(program);
  return { names, hasHeritage, hasGlobals };
}

/** Returns every word of a text that may be a name. */
export function wordsIn(text: string): ReadonlySet<string> {
  return new Set(text.match(/[\p{ID_Start}$_][\p{ID_Continue}$\u200c\u200d]*/gu));
}
