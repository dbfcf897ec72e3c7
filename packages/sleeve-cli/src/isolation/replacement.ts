import {
  isElementAccessExpression,
  isPropertyAccessExpression,
  type Node,
  SyntaxKind,
} from "../compiler/typescript.ts";
import type { SourceText } from "../project/source-text.ts";
import type { Reference } from "../uses/imported-names.ts";

/** What replaces an outside export. */
export interface Replacement {
  /** Member of the adapter's object, for callers that adopt new names. */
  readonly member?: string | undefined;
  /** Method of that object that creates what callers construct. */
  readonly factory?: string | undefined;
  /** Type of the target. */
  readonly type?: string | undefined;
  /** Members of that object that replace those of the export, by their names; the export itself is not offered. */
  readonly opened?: ReadonlyMap<string, string> | undefined;
  /** Type guard of that object that replaces `instanceof`. */
  readonly guard?: string | undefined;
  /** Exported name in the adapter's module, for callers that keep their names. */
  readonly reexportedAs?: string | undefined;
}

/** Where callers are moved to. */
export interface Destination {
  /** Whether callers keep their names, so that only imports change. */
  readonly keepsNames: boolean;
  /** Name of the adapter's object. */
  readonly object: string;
  /** Returns the replacement of an export; `undefined` if there is none and the caller must stay. */
  readonly of: (specifier: string, name: string) => Replacement | undefined;
  /** Whether the adapter's module re-exports the outside one or one of its namespaces completely. */
  readonly reexportsAll: (specifier: string) => boolean;
  /** Whether the adapter's module imports it, so that its side effects run. */
  readonly touches: (specifier: string) => boolean;
  /** Keys of the set-up statements that the adapter runs. Default: none. */
  readonly setUps?: ReadonlySet<string> | undefined;
  /** Specifiers of the adapter's and the target's modules in a file. */
  readonly specifiers: (source: SourceText) => { readonly adapter: string; readonly target: string };
}

export function isRewritable(reference: Reference, replacement: Replacement): boolean {
  return openedMember(reference, replacement) !== undefined || isReplaced(reference, replacement);
}

function isReplaced({ kind }: Reference, { member, factory, guard, type }: Replacement): boolean {
  switch (kind) {
    case "type":
      return type !== undefined;
    case "new":
      return (factory ?? member) !== undefined;
    case "call":
    case "read":
    case "shorthand":
    case "type query":
      return member !== undefined;
    case "instanceof":
      return (guard ?? member) !== undefined;
    case "export":
    case "extend":
    case "jsx":
    case "metadata":
    case "write":
      return false;
  }
}

/** Returns the access to a member of an export whose members the object offers, and their name there. */
export function openedMember(
  { node, kind }: Reference,
  { opened }: Replacement,
): { readonly access: Node; readonly member: string } | undefined {
  if (!opened || kind === "type" || kind === "export") return undefined;
  const { parent } = node;
  const isAccess = isPropertyAccessExpression(parent) || isElementAccessExpression(parent);
  if (!isAccess || parent.expression !== node) return undefined;
  const name = isPropertyAccessExpression(parent) ? parent.name : parent.argumentExpression;
  const { text } = name as Node & { text?: string };
  const isName = isPropertyAccessExpression(parent) || name.kind === SyntaxKind.StringLiteral;
  const member = isName && text !== undefined ? opened.get(text) : undefined;
  return member === undefined ? undefined : { access: parent, member };
}

export function isImportable({ kind }: Reference, { reexportedAs }: Replacement): boolean {
  return reexportedAs !== undefined && reexportedAs !== "default" && kind !== "export" && kind !== "write";
}
