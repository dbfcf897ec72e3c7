import type { CompilerSymbol, Node } from "../compiler/typescript.ts";
import type { UseKind } from "../documents/survey-document.ts";
import type { ImportSite } from "../parser/module-record.ts";

/**
 * What a reference does. Beyond uses, it may name a type by its value, re-export a name, be a shorthand property, name
 * a class that the compiler writes into the metadata of a decorated declaration, or be a factory that JSX calls.
 */
export type ReferenceKind = UseKind | "type query" | "export" | "shorthand" | "metadata" | "jsx";

/** One place in a file that refers to something imported. */
export interface Reference {
  readonly site: ImportSite;
  /** Its exported name; `*` for the module itself, and `export=` for a module that is one value. */
  readonly export: string;
  /** Its local name; none for a type in `import("…")`. */
  readonly local: string;
  readonly kind: ReferenceKind;
  /** Range of the source: `sum`, or `sums.sum` of a namespace. */
  readonly start: number;
  readonly end: number;
  /** The whole written text. */
  readonly node: Node;
  /** The symbol it resolves to, following aliases. */
  readonly symbol: CompilerSymbol | undefined;
  /** Whether its import cannot be written anew, so that the name must stay. */
  readonly keepsName: boolean;
}

/** A local name that an import introduces. */
export interface Binding {
  readonly site: ImportSite;
  readonly export: string;
  readonly local: string;
  readonly node: Node;
  /** Whether the import declares it as a type. */
  readonly isTypeOnly: boolean;
  readonly symbol: CompilerSymbol | undefined;
}

/**
 * The source of an import: `import { lift } from "crane";`, or the declaration in `const { lift } = require("crane");`,
 * which may declare more.
 */
export interface ImportStatement {
  readonly kind: "import" | "require";
  readonly start: number;
  readonly end: number;
  /** The statement that declares nothing else. */
  readonly statement: { readonly start: number; readonly end: number } | undefined;
  /** Offset of the block in which its names are declared; `FILE_SCOPE` for the whole file. */
  readonly scope: number;
  /** Statements that take names from the module that it binds: `const { lift } = crane;`. */
  readonly destructured: readonly { readonly start: number; readonly end: number }[];
}

/** The scope of names that a whole file can use. */
export const FILE_SCOPE = -1;

/** What some imports introduce, and where the file refers to it. */
export interface ImportedInFile {
  readonly bindings: readonly Binding[];
  readonly references: readonly Reference[];
  /** Ranges of the import statements, by site. */
  readonly statements: ReadonlyMap<ImportSite, ImportStatement>;
  /** All names in the file outside its imports, with the number of places. */
  readonly names: ReadonlyMap<string, number>;
}
