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
  /** Specifiers of the adapter's and the target's modules in a file. */
  readonly specifiers: (source: SourceText) => { readonly adapter: string; readonly target: string };
}

export function isRewritable({ kind }: Reference, { member, factory, type }: Replacement): boolean {
  switch (kind) {
    case "type":
      return type !== undefined;
    case "new":
      return factory !== undefined || member !== undefined;
    case "call":
    case "read":
    case "shorthand":
    case "instanceof":
    case "type query":
      return member !== undefined;
    case "export":
    case "extend":
    case "jsx":
    case "metadata":
    case "write":
      return false;
  }
}

export function isImportable({ kind }: Reference, { reexportedAs }: Replacement): boolean {
  return reexportedAs !== undefined && reexportedAs !== "default" && kind !== "export" && kind !== "write";
}
