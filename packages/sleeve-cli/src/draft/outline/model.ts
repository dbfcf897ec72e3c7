import type { Checker } from "../../compiler/typescript.ts";
import type { Language } from "../../emit/printed.ts";
import type { Names } from "../../isolation/naming.ts";
import type { UsedExport } from "../../isolation/outside/outside-uses.ts";
import type { Replacement } from "../../isolation/replacement.ts";
import type { SetUp } from "../../isolation/set-up.ts";
import type { CopiedType } from "../../types/copied-types.ts";
import type { WrittenExport, WrittenFactory } from "../../types/export-declaration.ts";
import type { OutsideAlias } from "../../types/outside-aliases.ts";
import type { OutsidePaths } from "../../types/outside-paths.ts";
import type { CallbackResult } from "../../types/promisify.ts";
import type { TypeImport } from "../../types/type-imports.ts";
import type { WrittenMember } from "../../types/writing/type-names.ts";
import type { MemberGroup } from "./groups.ts";
import type { Reexport } from "./reexports.ts";

/** A member that the target offers for an outside export. */
export interface OutlineMember {
  /** The export, as written in a config. */
  readonly key: string;
  readonly specifier: string;
  readonly export: string;
  /** Its name in the target; empty if it is the target. */
  readonly member: string;
  readonly form: WrittenExport["form"];
  readonly text: string;
  /** Members of an object without a type of its own. */
  readonly parts: readonly WrittenMember[];
  readonly doc: string | undefined;
  readonly parameters: readonly string[] | undefined;
  /** Whether the adapter's factory must accept instances that the module itself creates. */
  readonly takesInstances: boolean;
  /** A factory besides a class. */
  readonly factory: (WrittenFactory & { readonly member: string }) | undefined;
  /** For a function with a callback: an additional member that returns a promise. */
  readonly callbackResult: (CallbackResult & { readonly member: string }) | undefined;
  /** The copied type that replaces it. */
  readonly type: string | undefined;
  /** Why it has the type of the outside value; `undefined` if its type is our own. */
  readonly aliased: string | undefined;
  /** Whether the adapter asserts its type, because objects that come out go back in. */
  readonly isAsserted: boolean;
  /** How the adapter implements it, if its type follows from use. */
  readonly implementation?: Implementation | undefined;
  /** The exported name for callers that keep their names. */
  readonly reexportedAs: string | undefined;
  readonly isImportedByName: boolean;
}

/** How an adapter implements a member whose type follows from use. */
export interface Implementation {
  readonly kind: "call" | "construct" | "guard" | "value";
  /** The member of the export that it uses. Default: the export itself. */
  readonly property: string | undefined;
  /** The key of that member. */
  readonly memberKey?: string | undefined;
  /** The parameters that it passes on; `undefined` if it has several signatures. */
  readonly parameters: readonly { readonly name: string; readonly isRest: boolean }[] | undefined;
  readonly form: ImplementationForm;
}

/**
 * `direct`: the outside function or value itself; `forwarded`: a function that passes its parameters on; `asserted`: that
 * outside function or value, with its type asserted; `aliased`: the outside value, whose type the target has.
 */
export type ImplementationForm = "direct" | "forwarded" | "asserted" | "aliased";

/** A draft of a target, before it is written as source. */
export interface Outline {
  readonly outside: string;
  /** Names of the target and of the adapter's object. */
  readonly target: string;
  readonly object: string;
  readonly members: readonly OutlineMember[];
  /** Groups of members that are used together. */
  readonly groups: readonly MemberGroup[];
  /** Members of the target, if it has the shape of a single export. */
  readonly whole: readonly WrittenMember[] | undefined;
  readonly types: readonly CopiedType[];
  /** The outside type that the whole target is an alias of. */
  readonly wholeType: string | undefined;
  /** Outside types that it mentions. */
  readonly aliased: readonly OutsideAlias[];
  readonly imports: readonly TypeImport[];
  readonly reexports: readonly Reexport[];
  /** The specifier that the adapter re-exports completely, because it is used as a whole. */
  readonly reexportsAll: string | undefined;
  /** Specifiers that the adapter imports for their side effects. */
  readonly touched: readonly string[];
  /** Whether the adapter's module is the outside one, because the module itself is called. */
  readonly isItself: boolean;
  /** Everything with a type of our own that could be aliased instead, from the outermost inwards. */
  readonly choices: readonly string[];
  /** Keys of the exports whose type the adapter may assert. */
  readonly assertions: readonly string[];
  /** Statements that set the module up, which the adapter runs, and the exports that only they use. */
  readonly setUps?: readonly SetUp[] | undefined;
  readonly setUpExports?: readonly Pick<UsedExport, "specifier" | "name" | "isImportedByName">[] | undefined;
  /** What replaces each export, by its key, if the types of the target follow from use. */
  readonly replacements?: ReadonlyMap<string, Replacement> | undefined;
  /** Reasons why types are aliased, by their keys. */
  readonly reasons: ReadonlyMap<string, string>;
  /** Keys of the members of outside objects that the project uses, whatever the target says of them. */
  readonly usedKeys: ReadonlySet<string>;
}

export interface OutlineSettings {
  /** Reads the outside types; none if nothing is used. */
  readonly checker: Checker | undefined;
  readonly outside: string;
  /** Name of the adapter's object and, capitalised, of the target. */
  readonly object: string;
  readonly target: string;
  readonly keepsNames: boolean;
  readonly names: Names;
  /** Exports to re-export, with the reasons. */
  readonly reexport: ReadonlyMap<string, string>;
  /** Choices that are aliased, with the reasons. */
  readonly aliased: ReadonlyMap<string, string>;
  /** The language of the adapter. */
  readonly language: Language;
  /** Whether the module can be re-exported completely. */
  readonly canReexportAll: boolean;
  /** Keys of the members of outside objects that the project uses. */
  readonly usedKeys: ReadonlySet<string>;
  readonly paths: OutsidePaths;
}

/** Returns the key of the assertion of an export's type among the choices of a draft. */
export function assertionChoice(key: string): string {
  return `assertion ${key}`;
}

/** Returns the key of an export among the choices of a draft. */
export function exportChoice(key: string): string {
  return `export ${key}`;
}

/** Returns the key of a member's promise form. */
export function callbackResultKey(key: string): string {
  return `${key} as a promise`;
}

/** Returns the outline of a target without members. */
export function emptyOutline({ outside, target, object, usedKeys }: OutlineSettings): Outline {
  return {
    usedKeys,
    outside,
    target,
    object,
    members: [],
    groups: [],
    whole: undefined,
    wholeType: undefined,
    types: [],
    aliased: [],
    imports: [],
    reexports: [],
    reexportsAll: undefined,
    touched: [],
    isItself: false,
    choices: [],
    assertions: [],
    reasons: new Map(),
  };
}
