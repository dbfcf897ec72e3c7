import { printedName } from "../types/writing/type-text.ts";
import { stringLiteral } from "../written-text.ts";
import { type Code, joined, owned } from "./code.ts";

/** A file of generated code. */
export interface Module {
  /** Comments at the start of the file. */
  readonly opening?: readonly string[];
  /** What may be imported. Only what the declarations refer to is. */
  readonly imports: readonly Import[];
  /** Modules that are imported for their side effects. */
  readonly touched?: readonly string[];
  /** Whether a script requests to be checked by the compiler. Default: `false`. */
  readonly isChecked?: boolean;
  readonly declarations: readonly Declaration[];
}

/** An export of another module, and its local name. */
export interface Import {
  readonly specifier: string;
  /** The name of the export: `default` for the default export, `*` for all of them. */
  readonly name: string;
  readonly local: string;
  readonly owners?: readonly string[];
  /** Whether it is the value of a JSON file. */
  readonly isJson?: boolean;
}

export type Declaration =
  | InterfaceDeclaration
  | TypeDeclaration
  | ClassDeclaration
  | ValueDeclaration
  | ReexportDeclaration
  | CodeDeclaration;

interface Declared {
  /** Sentences of the documentation comment, without its delimiters. */
  readonly doc?: string | undefined;
  readonly owners?: readonly string[];
  /** Default: `true`. */
  readonly isExported?: boolean;
}

export interface InterfaceDeclaration extends Declared {
  readonly kind: "interface";
  readonly name: string;
  /** `<Key extends string>`, or empty. */
  readonly parameters?: string;
  readonly bases?: readonly string[];
  readonly members: readonly Member[];
}

export interface TypeDeclaration extends Declared {
  readonly kind: "type";
  readonly name: string;
  readonly parameters?: string;
  readonly type: Code;
}

export interface ClassDeclaration extends Declared {
  readonly kind: "class";
  readonly name: string;
  readonly parameters?: string;
  readonly base?: string | undefined;
  readonly implements?: readonly string[];
  /** Fields, which stand together at the start. */
  readonly fields?: readonly Code[];
  readonly members: readonly Member[];
}

export interface ValueDeclaration extends Declared {
  readonly kind: "value";
  /** `default` for a default export. */
  readonly name: string;
  readonly type?: string | undefined;
  readonly value: Code;
}

/** Exports names of another module, or of this one. */
export interface ReexportDeclaration {
  readonly kind: "reexport";
  readonly owners?: readonly string[];
  /** Comment on the line before it. */
  readonly comment?: string | undefined;
  /** Default: this module. */
  readonly specifier?: string;
  /** All names, or some. */
  readonly names: "*" | readonly ReexportedName[];
  readonly isType?: boolean;
}

export interface ReexportedName {
  readonly name: string;
  readonly as: string;
  readonly owners?: readonly string[];
}

/** Declarations that are code as a whole. */
export interface CodeDeclaration {
  readonly kind: "code";
  readonly owners?: readonly string[];
  readonly code: Code;
}

/** A member of an interface or a class, in one piece. */
export interface Member {
  readonly doc?: string | undefined;
  readonly owners?: readonly string[];
  readonly code: Code;
}

/** Returns the declarations of a module as TypeScript, without its imports. */
export function declarationsCode({ declarations }: Module): Code {
  return joined(
    declarations.map((declaration) => owned(declaration.owners ?? [], declarationCode(declaration))),
    "\n\n",
  );
}

function declarationCode(declaration: Declaration): Code {
  switch (declaration.kind) {
    case "interface":
      return interfaceCode(declaration);
    case "type":
      return [
        headOf(declaration),
        "type ",
        declaration.name,
        declaration.parameters ?? "",
        " = ",
        declaration.type,
        ";",
      ];
    case "class":
      return classCode(declaration);
    case "value":
      return valueCode(declaration);
    case "reexport":
      return reexportCode(declaration);
    case "code":
      return declaration.code;
  }
}

function headOf({ doc, isExported = true }: Declared): string {
  return `${docText(doc)}${isExported ? "export " : ""}`;
}

/** Returns a documentation comment and a line end; empty for none. */
export function docText(doc: string | undefined): string {
  if (doc === undefined) return "";
  const lines = doc.split("\n");
  if (lines.length === 1) return `/** ${doc} */\n`;
  return `/**\n${lines.map((line) => ` *${line === "" ? "" : ` ${line}`}\n`).join("")} */\n`;
}

function interfaceCode(declaration: InterfaceDeclaration): Code {
  const { name, parameters = "", bases = [], members } = declaration;
  const heritage = bases.length > 0 ? ` extends ${bases.join(", ")}` : "";
  const head = `${headOf(declaration)}interface ${name}${parameters}${heritage} {`;
  if (members.length === 0) return `${head}}`;
  return [head, members.map((member) => ["\n", memberCode(member), ";"]), "\n}"];
}

function classCode(declaration: ClassDeclaration): Code {
  const { name, parameters = "", base, implements: targets = [], fields = [], members } = declaration;
  const heritage = [
    base === undefined ? "" : ` extends ${base}`,
    targets.length > 0 ? ` implements ${targets.join(", ")}` : "",
  ].join("");
  return [
    `${headOf(declaration)}class ${name}${parameters}${heritage} {`,
    fields.map((field) => ["\n", field, ";"]),
    members.map((member) => ["\n\n", memberCode(member)]),
    "\n}",
  ];
}

function memberCode({ doc, owners = [], code }: Member): Code {
  return owned(owners, [docText(doc), code]);
}

function valueCode(declaration: ValueDeclaration): Code {
  const { name, type, value } = declaration;
  if (name === "default") return [`${docText(declaration.doc)}export default `, value, ";"];
  return [headOf(declaration), `const ${name}${type === undefined ? "" : `: ${type}`} = `, value, ";"];
}

function reexportCode({ comment, specifier, names, isType = false }: ReexportDeclaration): Code {
  const list: Code =
    names === "*"
      ? "*"
      : [
          "{ ",
          joined(
            names.map(({ name, as, owners = [] }) => owned(owners, renamed(name, as, " as "))),
            ", ",
          ),
          " }",
        ];
  const from = specifier === undefined ? "" : ` from ${stringLiteral(specifier)}`;
  return [
    `${comment === undefined ? "" : `// ${comment}\n`}export ${isType ? "type " : ""}`,
    list,
    `${from};`,
  ];
}

/** `Crane as Hoist`; a single name if both are equal. */
export function renamed(name: string, local: string, separator: string): string {
  return name === local ? printedName(name) : `${printedName(name)}${separator}${printedName(local)}`;
}
