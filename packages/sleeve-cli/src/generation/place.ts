import { existsSync } from "node:fs";
import { basename, dirname, extname, join, relative, resolve, sep } from "node:path";
import type { WrapperFile } from "../documents/wrap-document.ts";
import { CliError } from "../errors.ts";
import { stemOf } from "../isolation/file-language.ts";
import { RESERVED } from "../isolation/naming.ts";
import { endingOf, specifierBetween } from "../isolation/specifiers.ts";
import { exportParts } from "../place.ts";
import { sourceNamed } from "../project/named-source.ts";
import type { OpenProject } from "../project/open-project.ts";
import { Packages } from "../project/packages/packages.ts";
import type { SourceText } from "../project/source-text.ts";
import { isWithin } from "../project/writing/within.ts";
import { asTypeName, camelCase, isIdentifierName } from "../types/writing/type-text.ts";
import { requirePlainPaths } from "../written-text.ts";
import type { WantedLayers } from "./layers.ts";
import type { ContractImplementation } from "./render/contract.ts";
import type { TargetSource } from "./target/target.ts";

export type WrapKind = WrapperFile["kind"];

/** Default names of what is generated. */
const CLASS_NAMES: Readonly<Record<WrapKind, (type: string) => string>> = {
  forwarder: (type) => `${type}Forwarder`,
  decorator: (type) => `${type}Decorator`,
  proxy: (type) => `${type}Proxy`,
  adapter: (type) => `${type}Adapter`,
  facade: (type) => `${type}Facade`,
  bridge: (type) => `${type}Bridge`,
  contract: (type) => `${type.charAt(0).toLowerCase()}${type.slice(1)}Contract`,
  fake: (type) => `Fake${type}`,
  surface: (type) => `${type.charAt(0).toLowerCase()}${type.slice(1)}Surface`,
};

/** What the user says of the place of a wrapper. */
export interface PlaceOptions {
  readonly type: string;
  readonly kind: WrapKind;
  readonly to?: string | undefined;
  readonly name?: string | undefined;
  readonly layers: WantedLayers;
}

/** Where a wrapper is generated, and what it wraps. */
export interface WrapPlace extends TargetSource {
  readonly root: string;
  /** The file as the compiler sees it. */
  readonly path: string;
  /** The file that is written: the same, or a script. */
  readonly output: string;
  readonly kind: WrapKind;
  readonly className: string;
  readonly layers: WantedLayers;
  /** The file that exports the type, unless it is of a package. */
  readonly source: SourceText | undefined;
  readonly specifierTo: (path: string) => string;
  /** The adapters that a contract is run over. */
  readonly implementations?: readonly ContractImplementation[];
  /** Whether the type is meant with the defaults of its parameters. */
  readonly usesDefaults?: boolean;
}

/**
 * Finds the type's file, and the file of the wrapper.
 *
 * @throws {CliError} `NO_SUCH_FILE`, `BAD_OPTION`
 */
export function placeOf(project: OpenProject, { type, kind, to, name, layers }: PlaceOptions): WrapPlace {
  const { root } = project;
  const [module, exportName] = exportParts(type);
  const className = classNameOf(module, exportName, { type, kind, name });
  const source = sourceOf(project, module);
  requirePlainPaths([module, to ?? ""]);
  const file =
    to !== undefined && isFile(to)
      ? to
      : join(
          to ?? (source ? dirname(source.file) : defaultFolder(root)),
          fileNameFor(className, source, project.sources),
        );
  requireScript(root, file);
  const path = resolve(root, file);
  const ending = endingOf(source, project.sources, project.program.importEnding());
  const specifierTo = (target: string) => specifierBetween(path, target, ending);
  return {
    given: type,
    specifier: source ? specifierTo(source.path) : module,
    exportName,
    root,
    // A script is compiled as TypeScript, which it is written from.
    path: path.replace(/js$/, "ts"),
    output: path,
    kind,
    className,
    layers,
    source,
    specifierTo,
  };
}

/** @throws {CliError} `BAD_OPTION` */
function classNameOf(
  module: string,
  exportName: string,
  { type, kind, name }: Pick<PlaceOptions, "type" | "kind" | "name">,
): string {
  if (exportName !== "*" && !isIdentifierName(exportName))
    throw new CliError(
      "BAD_OPTION",
      `${type} names no type. Write the name of an export after #, or * for the whole module.`,
    );
  const isUnnamed = exportName === "default" || exportName === "*";
  const typeName = asTypeName(isUnnamed ? camelCase(stemOf(basename(module))) : exportName);
  const className = name ?? CLASS_NAMES[kind](typeName);
  if (!isIdentifierName(className) || RESERVED.has(className))
    throw new CliError(
      "BAD_OPTION",
      `--name ${className} is not a name of a class. Write an identifier that is no word of the language.`,
    );
  return className;
}

/** @throws {CliError} `BAD_OPTION` for a path outside the project, or of another language */
function requireScript(root: string, file: string): void {
  if (!isWithin(root, file))
    throw new CliError("BAD_OPTION", `--to ${file} is outside the project. Name a file within ${root}.`);
  if (!/\.[cm]?[jt]s$/.test(file) || file.endsWith(".d.ts"))
    throw new CliError(
      "BAD_OPTION",
      `--to ${file} is neither TypeScript nor JavaScript. Give it the ending .ts or .js.`,
    );
}

/**
 * Checks that the project's config includes files, because others are not compiled.
 *
 * @throws {CliError} `BAD_OPTION`
 */
export function requireIncluded({ program }: OpenProject, places: readonly WrapPlace[]): void {
  const byConfig = new Map<string, WrapPlace[]>();
  for (const place of places) {
    const config = program.configOf(place.source?.path ?? place.path);
    byConfig.set(config, [...(byConfig.get(config) ?? []), place]);
  }
  for (const [config, ofConfig] of byConfig) {
    const paths = ofConfig.map(({ path }) => path);
    if (program.wouldList(config, paths)) continue;
    const excluded = paths.find((path) => !program.wouldList(config, [path])) ?? "";
    const file = relative(ofConfig[0]?.root ?? "", excluded)
      .split(sep)
      .join("/");
    throw new CliError(
      "BAD_OPTION",
      `${basename(config)} does not include ${file}, so it cannot be checked. Name another file with --to, or include this one.`,
    );
  }
}

/**
 * Returns the file of the project that a type is named with; `undefined` for a package.
 *
 * @throws {CliError} `NO_SUCH_FILE`
 */
export function sourceOf(project: OpenProject, module: string): SourceText | undefined {
  const file = module.replace(/^\.\//, "");
  const source = project.sources.find((source) => source.file === file);
  const isOfProject = /^\.|\.[cm]?[jt]sx?$/.test(module);
  // Names of packages may end as those of files.
  if (source || !isOfProject || new Packages().find(module, join(project.root, "package.json")))
    return source;
  return sourceNamed(project, file);
}

/** Whether the place that a user names is a file, rather than a folder. */
function isFile(to: string): boolean {
  return /\.\w+$/.test(basename(to));
}

function defaultFolder(root: string): string {
  return existsSync(join(root, "src")) ? "src" : ".";
}

/** A file has the language of the type's file or, for a package, of most files. */
function endingFor(source: SourceText | undefined, sources: readonly SourceText[]): string {
  const scripts = sources.filter(({ file }) => /\.[cm]?jsx?$/.test(file));
  if (!source) return scripts.length > sources.length / 2 ? ".js" : ".ts";
  if (/\.d\.[cm]?ts$/.test(source.file)) return source.file.replace(/^.*\.d(?=\.[cm]?ts$)/, "");
  return extname(source.file).replace("x", "");
}

/** Names a file as the project's files are named: `tide-table-forwarder.ts`, `TideTableForwarder.ts`. */
function fileNameFor(
  className: string,
  source: SourceText | undefined,
  sources: readonly SourceText[],
): string {
  const stem = source ? stemOf(basename(source.file)) : "";
  const ending = endingFor(source, sources);
  if (/^\p{Lu}/u.test(stem)) return `${asTypeName(className)}${ending}`;
  if (/[a-z]\p{Lu}/u.test(stem)) return `${className.charAt(0).toLowerCase()}${className.slice(1)}${ending}`;
  const words = className.replace(
    /(?<=[\p{Ll}\d])(?=\p{Lu})|(?<=\p{Lu})(?=\p{Lu}\p{Ll})/gu,
    stem.includes("_") ? "_" : "-",
  );
  return `${words.toLowerCase()}${ending}`;
}
