import { compareText } from "../place.ts";
import { stringLiteral } from "../written-text.ts";
import { type Code, joined, owned, type SpannedText, textOf } from "./code.ts";
import { formatted } from "./format.ts";
import { asJavaScript } from "./javascript.ts";
import { declarationsCode, type Import, type Module, renamed } from "./module.ts";
import { type ReferenceUse, referencesIn } from "./references.ts";
import type { Style } from "./style.ts";
import { originIn } from "./word-offsets.ts";

/** The language of a file: TypeScript, an ES module script, or a CommonJS script. */
export type Language = "typescript" | "module" | "commonjs";

/** How a file is printed. */
export interface PrintSettings {
  readonly language: Language;
  /** Default: the layout of the tree, for files that are only compiled. */
  readonly style?: Style;
  /** Whether `export * from` makes a CommonJS module the other module itself. */
  readonly isItself?: boolean;
}

/** A printed file. */
export interface PrintedModule {
  readonly text: string;
  /** Returns the owners of the innermost branch of the tree at an offset in the text; empty if it has none. */
  readonly ownersAt: (offset: number) => readonly string[];
}

/** Modules that have been printed, by language. A file is compiled as it is printed, and then written. */
const printedModules = new WeakMap<Module, Map<Language, PrintedModule & { readonly style: Style }>>();

/** Prints generated code in the style of a project. */
export function printed(module: Module, settings: PrintSettings): PrintedModule {
  const { language, style } = settings;
  if (!style) return printedAs(module, settings);
  const byLanguage = printedModules.get(module) ?? new Map();
  printedModules.set(module, byLanguage);
  const cached = byLanguage.get(language);
  if (cached?.style === style) return cached;
  const result = { ...printedAs(module, settings), style };
  byLanguage.set(language, result);
  return result;
}

function printedAs(module: Module, { language, style, isItself }: PrintSettings): PrintedModule {
  const typescript = textOf(moduleCode(module));
  if (!style) return { text: typescript.text, ownersAt: ownersIn(typescript, (offset) => offset) };
  if (language === "typescript") {
    const text = formatted(typescript.text, ".ts", style);
    return { text, ownersAt: ownersIn(typescript, (offset) => originIn(typescript.text, text, offset)) };
  }
  const script = asJavaScript(typescript.text, {
    isModule: language === "module",
    isChecked: module.isChecked === true,
    isItself: isItself === true,
  });
  const text = formatted(script.text, ".js", style);
  return {
    text,
    ownersAt: ownersIn(typescript, (offset) => script.originOf(originIn(script.text, text, offset))),
  };
}

function ownersIn(
  { spans }: SpannedText,
  originOf: (offset: number) => number,
): (offset: number) => readonly string[] {
  return (offset) => {
    const origin = originOf(offset);
    return spans.findLast(({ start, end }) => start <= origin && origin < end)?.owners ?? [];
  };
}

/** Returns the names that the declarations of a module refer to and do not declare. */
export function moduleReferences(module: Module): ReadonlyMap<string, ReferenceUse> {
  return referencesIn(textOf(declarationsCode(module)).text);
}

/** Returns a module as TypeScript: its opening, the imports that it refers to, and its declarations. */
function moduleCode(module: Module): Code {
  const declarations = declarationsCode(module);
  const references = referencesIn(textOf(declarations).text);
  const opening = module.opening?.map((line) => `${line}\n`).join("") ?? "";
  const imports = [
    ...importStatements(module.imports, references),
    ...(module.touched ?? []).map((specifier) => `import ${stringLiteral(specifier)};`),
  ];
  return [
    opening,
    opening === "" ? "" : "\n",
    joined(imports, "\n"),
    imports.length > 0 ? "\n\n" : "",
    declarations,
    "\n",
  ];
}

/** Writes the imports that some code refers to, sorted by their modules. */
function importStatements(
  imports: readonly Import[],
  references: ReadonlyMap<string, ReferenceUse>,
): readonly Code[] {
  const bySpecifier = new Map<string, Map<string, Import>>();
  for (const imported of imports) {
    if (!references.has(imported.local)) continue;
    const ofModule = bySpecifier.get(imported.specifier) ?? new Map<string, Import>();
    bySpecifier.set(imported.specifier, ofModule.set(imported.local, imported));
  }
  return [...bySpecifier]
    .sort(([left], [right]) => compareText(sortKey(left), sortKey(right)))
    .flatMap(([specifier, ofModule]) => statementsFor(specifier, [...ofModule.values()], references));
}

/** Packages come before files. */
function sortKey(specifier: string): string {
  return `${specifier.startsWith(".") ? 1 : 0}${specifier}`;
}

/** A statement cannot combine a namespace with names, nor import a default export and names of types only. */
function statementsFor(
  specifier: string,
  imports: readonly Import[],
  references: ReadonlyMap<string, ReferenceUse>,
): readonly Code[] {
  const isType = ({ local }: Import) => references.get(local) === "type";
  const attributes = imports.some(({ isJson }) => isJson) ? ' with { type: "json" }' : "";
  const from = ` from ${stringLiteral(specifier)}${attributes};`;
  const statement = (items: readonly Import[], list: string): Code =>
    owned(
      items.flatMap(({ owners = [] }) => owners),
      `import ${items.every(isType) ? "type " : ""}${list}${from}`,
    );
  const namespaces = imports.filter(({ name }) => name === "*");
  const standards = imports.filter(({ name }) => name === "default");
  const named = imports.filter(({ name }) => name !== "*" && name !== "default");
  const list = named.length > 0 ? [namedList(named, isType)] : [];
  const [standard, ...otherStandards] = standards;
  // A type-only import has a default export or names, but not both.
  const isJoined = standard !== undefined && named.length > 0 && ![standard, ...named].every(isType);
  return [
    ...namespaces.map((item) => statement([item], `* as ${item.local}`)),
    ...(isJoined ? otherStandards : standards).map((item) => statement([item], item.local)),
    ...(isJoined ? [statement([standard, ...named], [standard.local, ...list].join(", "))] : []),
    ...(!isJoined && named.length > 0 ? [statement(named, list.join(""))] : []),
  ];
}

/** `{ mark, type Tide }`, or `{ Tide }` if all are types. */
function namedList(imports: readonly Import[], isType: (imported: Import) => boolean): string {
  const hasValues = !imports.every(isType);
  const names = imports
    .map((imported) => ({
      text: renamed(imported.name, imported.local, " as "),
      prefix: hasValues && isType(imported) ? "type " : "",
    }))
    .sort((left, right) => compareText(left.text, right.text));
  return `{ ${names.map(({ prefix, text }) => `${prefix}${text}`).join(", ")} }`;
}
