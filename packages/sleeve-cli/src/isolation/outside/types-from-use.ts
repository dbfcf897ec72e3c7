import type { OpenProject } from "../../project/open-project.ts";
import { packageTypeOf, runtimeFileOf } from "../../project/packages/runtime-file.ts";
import { ShapeReader } from "../../types/from-use/shape-reader.ts";
import { declarationsOf, type ShownExport } from "../../types/from-use/shape-source.ts";
import { emptyShape, isContradictory, normalize, type UseShape } from "../../types/from-use/use-shape.ts";
import { OverlayProgram } from "../verification/overlay-program.ts";
import { outsideUsesOf, type UsedExport } from "./outside-uses.ts";

/** Maximum number of exports that are tried one by one when their types do not compile together. */
const MAX_TRIED = 30;

interface UntypedModule {
  readonly specifier: string;
  /** Where the compiler looks for its declarations. */
  readonly declarations: string;
  readonly isCommonJs: boolean;
  readonly exports: readonly ShownExport[];
}

/**
 * Returns declarations for the modules of a package that has no types, inferred from how the project uses them.
 * The compiler sees them beside the package's files; nothing is written. An export whose inferred types do not
 * compile with its uses is left out, so that it has no types, as before.
 */
export function declarationsFromUse(project: OpenProject, outside: string): ReadonlyMap<string, string> {
  const modules = untypedModulesOf(project, outside);
  if (modules.length === 0) return new Map();
  using overlays = OverlayProgram.open(project);
  const shadowed = shorthandsOf(project, outside);
  const importing = new Set(
    project.imports.filter((site) => site.package === outside).map(({ source }) => source.path),
  );
  const filesWith = (isInferred: (shown: ShownExport) => boolean, otherForm: ShownExport["as"]) =>
    new Map([
      ...shadowed,
      ...modules.map(({ declarations, isCommonJs, exports }) => {
        const shown = exports.map((shown) => (isInferred(shown) ? shown : { ...shown, as: otherForm }));
        return [declarations, declarationsOf(shown, isCommonJs)] as const;
      }),
    ]);
  const compiles = (files: ReadonlyMap<string, string>) =>
    overlays.errorsWithin(files, importing).length === 0;
  const shapedExports = modules
    .flatMap(({ exports }) => exports)
    .filter(({ shape }) => !isContradictory(shape));
  if (compiles(filesWith((shown) => shapedExports.includes(shown), "any")))
    return filesWith((shown) => shapedExports.includes(shown), "nothing");
  const good = new Set(
    shapedExports
      .slice(0, MAX_TRIED)
      .filter((tried) => compiles(filesWith((shown) => shown === tried, "any"))),
  );
  if (good.size === 0 || !compiles(filesWith((shown) => good.has(shown), "any"))) return new Map();
  return filesWith((shown) => good.has(shown), "nothing");
}

function untypedModulesOf(project: OpenProject, outside: string): readonly UntypedModule[] {
  const uses = outsideUsesOf(project, outside, () => false);
  const bySpecifier = new Map<string, UsedExport[]>();
  for (const usedExport of uses.exports) {
    const ofSpecifier = bySpecifier.get(usedExport.specifier);
    if (ofSpecifier) ofSpecifier.push(usedExport);
    else bySpecifier.set(usedExport.specifier, [usedExport]);
  }
  const readers = new Map<string, ShapeReader | undefined>();
  const readerFor = (path: string): ShapeReader | undefined => {
    if (!readers.has(path)) {
      const source = project.program.sourceFile(path);
      const checker = project.program.checkerFor(path);
      readers.set(path, source && checker && new ShapeReader(source, checker, isLanguageFile));
    }
    return readers.get(path);
  };
  return [...bySpecifier].flatMap(([specifier, exports]): UntypedModule[] => {
    if (exports.some(({ symbol }) => symbol !== undefined)) return [];
    const importer = uses.files.find(({ sites }) => sites.some((site) => site.specifier === specifier));
    const file = importer && runtimeFileOf(importer.source.path, specifier);
    if (!file || !/\.[cm]?js$/.test(file)) return [];
    return [
      {
        specifier,
        declarations: file.replace(/\.([cm]?)js$/, ".d.$1ts"),
        isCommonJs: /\.cjs$/.test(file) || (/\.js$/.test(file) && packageTypeOf(file) !== "module"),
        exports: exports.map((usedExport) => ({
          name: usedExport.name,
          shape: shapeOf(usedExport, readerFor),
          isType: usedExport.kinds.has("type"),
        })),
      },
    ];
  });
}

function shapeOf({ references }: UsedExport, readerFor: (path: string) => ShapeReader | undefined): UseShape {
  const shape = emptyShape();
  for (const { node, source, kind } of references)
    if (kind !== "type" && kind !== "type query") readerFor(source.path)?.read(shape, node);
  normalize(shape);
  return shape;
}

/** Types of the language library, which any file can name. */
function isLanguageFile(path: string): boolean {
  return /\/lib\.[\w.]+\.d\.ts$/.test(path);
}

/** Returns the project's files that declare the package without types, without these declarations. */
function shorthandsOf(project: OpenProject, outside: string): ReadonlyMap<string, string> {
  const files = new Map<string, string>();
  for (const path of project.program.allFiles()) {
    if (!/\.d\.[cm]?ts$/.test(path) || project.packageOf(path) !== undefined) continue;
    const text = project.program.textOf(path);
    const without = text.replace(SHORTHAND, (match, name: string) =>
      name === outside || name.startsWith(`${outside}/`) ? " ".repeat(match.length) : match,
    );
    if (without !== text) files.set(path, without);
  }
  return files;
}

/** `declare module "oldlib";` */
const SHORTHAND = /\bdeclare\s+module\s*["']([^"']+)["']\s*(?:;|(?=\n|$))(?!\s*\{)/g;
