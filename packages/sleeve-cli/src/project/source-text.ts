import type { Problem } from "../errors.ts";
import type { ImportSite } from "../parser/module-record.ts";
import type { Lines } from "../place.ts";
import type { Component } from "./components/components.ts";

/** One of the project's own files. */
export interface SourceText {
  readonly path: string;
  /** Relative to the project's folder, with forward slashes. */
  readonly file: string;
  readonly text: string;
  readonly lines: Lines;
  readonly sites: readonly ImportSite[];
  /** Whether it is a module; declarations of other files are global. */
  readonly isModule: boolean;
  /** Places that import a computed specifier. */
  readonly unresolved: readonly number[];
  /** Why it does not parse. */
  readonly problem?: Problem | undefined;
  /** The single-file component whose scripts it has. */
  readonly component?: Component | undefined;
}
