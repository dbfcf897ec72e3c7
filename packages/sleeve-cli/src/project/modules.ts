import type { ImportSite } from "../parser/module-record.ts";

/** The files of a project and the resolution of imports, by the compiler or its replacement. */
export interface Modules {
  /** All known files, including those of packages. */
  allFiles(): readonly string[];
  /** Whether a config lists a file, rather than importing it only. */
  isNamed(path: string): boolean;
  /** Returns the file, or the first declaration, that an import resolves to. */
  resolveModule(importer: string, site: Pick<ImportSite, "specifier" | "offset">): string | undefined;
  /** Whether the config maps names of modules to files. */
  hasPathAliases(): boolean;
  /** Whether names of modules are looked up in the folders above a file first, as `moduleResolution: classic` does. */
  readonly isClassic: boolean;
  /** Returns the module that the compiler imports implicitly for JSX elements. */
  elementsFrom(): string | undefined;
  /** Folders that the compiler writes. */
  outputFolders(): readonly string[];
  /** Folders of configs that the opened ones reference, without being opened: other projects. */
  referencedFolders(): readonly string[];
  /** Settings of the configs that were translated, because the compiler no longer takes them. */
  readonly translatedSettings: readonly string[];
  /** Problems of the configs themselves. */
  configDiagnostics(): readonly ConfigDiagnostic[];
}

/** A problem of a config, with the compiler's code. */
export interface ConfigDiagnostic {
  readonly fileName?: string | undefined;
  readonly text: string;
  readonly code?: number | undefined;
}
