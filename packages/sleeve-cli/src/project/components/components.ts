import { existsSync, readFileSync } from "node:fs";
import { join, relative, sep } from "node:path";
import type { Problem } from "../../errors.ts";
import { NO_CONFIG_CODE, refusesConfigCode } from "../../no-config-code.ts";
import { runProgram } from "../child-processes/run-program.ts";
import { runtimeFileOf } from "../packages/runtime-file.ts";
import { type Format, findComponents, formatOf } from "./find-components.ts";
import {
  blankOutside,
  type ComponentModules,
  type FoundScripts,
  inOrder,
  type Ranges,
  type ScriptsTask,
  scriptsSchema,
} from "./scripts.ts";

/** A single-file component. The compiler sees its scripts as a file of their own, with the same positions. */
export interface Component {
  readonly path: string;
  readonly text: string;
  /** The scripts of one module at their positions; everything else is blank. */
  readonly script: string;
  /** Names that occur outside the scripts, where they may be used. */
  readonly names: ReadonlySet<string>;
  /** Where parts of the code after the script are in the component: expressions of its template. */
  readonly templateParts: readonly (readonly [from: number, to: number, length: number])[];
}

/** Returns the offset in a component for an offset in the file that the compiler sees. */
export function offsetInComponent({ text, templateParts }: Component, offset: number): number {
  if (offset < text.length) return offset;
  const part = templateParts.find(([, to, length]) => offset >= to && offset <= to + length);
  return part ? part[0] + offset - part[1] : 0;
}

/** The components of a project. */
export interface Components {
  /** By the path of the file that the compiler sees. */
  readonly shown: ReadonlyMap<string, Component>;
  readonly problems: readonly Problem[];
}

/** Returns the scripts of components, by the path of the file that the compiler sees. */
export function scriptsIn({ shown }: Components): ReadonlyMap<string, string> {
  return new Map([...shown].map(([path, { script }]) => [path, script]));
}

/** The packages that compile each format; the first one that is installed is used. */
const COMPILERS: Readonly<Record<Format, readonly string[]>> = {
  vue: ["@vue/compiler-sfc", "vue/compiler-sfc", "vue-template-compiler"],
  svelte: ["svelte/compiler"],
  astro: ["@astrojs/compiler"],
  mdx: ["@mdx-js/mdx"],
};

/** Processor time of the compilers of all components, in milliseconds. */
const PROCESSOR_TIME = 60_000;

/**
 * Reads the scripts of a project's single-file components, with the project's own compilers for them. They run in a
 * process of their own, and not at all where code of the project must not run; the files are then counted in a note.
 */
export function componentsIn(root: string): Components {
  const paths = findComponents(root);
  if (paths.length === 0) return { shown: new Map(), problems: [] };
  const problems: Problem[] = [];
  const files = paths.flatMap((path) => {
    const format = formatOf(path);
    const compiler = format && !refusesConfigCode() ? compilerFor(format, root) : undefined;
    if (!format || compiler === undefined) return [];
    return [{ path, format, compiler, isTyped: !isScript(path, root) }];
  });
  const skipped = paths.filter((path) => !files.some((file) => file.path === path));
  if (skipped.length > 0) problems.push(skippedNote(skipped));
  const found = files.length > 0 ? scriptsOf({ files }) : [];
  const shown = new Map<string, Component>();
  const unread: { readonly file: string; readonly count: number }[] = [];
  files.forEach(({ path, isTyped }, index) => {
    const result = found[index] ?? { failure: "its compiler did not end" };
    if ("modules" in result) {
      const { modules, template } = result;
      const name = relative(root, path).split(sep).join("/");
      if (template && template.skipped.length > 0)
        unread.push({ file: name, count: template.skipped.length });
      modules.forEach((scripts, module) => {
        const component = componentOf(path, scripts, modules.flat(), module === 0 ? template : undefined);
        const ending = isTyped ? "ts" : "js";
        shown.set(`${path}${module === 0 ? "" : `.${module}`}.${ending}`, component);
      });
    } else problems.push(unreadable(relative(root, path).split(sep).join("/"), result.failure));
  });
  if (unread.length > 0) problems.push(unreadNote(unread));
  return { shown, problems };
}

/** Whether a component is JavaScript. A compiler config decides for all files. */
function isScript(path: string, root: string): boolean {
  if (existsSync(join(root, "tsconfig.json")) || path.endsWith(".astro")) return false;
  const text = existsSync(path) ? readFileSync(path, "utf8") : "";
  return !/<script[^>]*\blang=["']?tsx?\b/.test(text);
}

function compilerFor(format: Format, root: string): string | undefined {
  for (const name of COMPILERS[format]) {
    const path = runtimeFileOf(join(root, "package.json"), name);
    if (path !== undefined) return path;
  }
  return undefined;
}

function scriptsOf(task: ScriptsTask): FoundScripts {
  const { results, failure = "its compiler ends the process" } = runProgram({
    program: "./component-process.js",
    input: task,
    result: scriptsSchema,
    processorTime: PROCESSOR_TIME,
  });
  return results[0] ?? task.files.map(() => ({ failure }));
}

/** Returns one module of a component; `all` are the scripts of all its modules. */
function componentOf(
  path: string,
  scripts: Ranges,
  codeRanges: Ranges,
  template: ComponentModules["template"],
): Component {
  const text = readFileSync(path, "utf8").replace(/^\uFEFF/, "");
  const script = blankOutside(text, scripts);
  const markup = textOutside(text, codeRanges);
  const names = new Set(markup.match(WORDS) ?? []);
  // `$count` subscribes to `count`; `use-name` means `useName`.
  for (const name of script.match(/\$[A-Za-z_]\w*/g) ?? []) names.add(name.slice(1));
  for (const name of [...names]) {
    if (name.startsWith("$")) names.add(name.slice(1));
    if (name.includes("-")) for (const spelling of fromKebab(name)) names.add(spelling);
  }
  const module = asModule(script);
  const templateParts = (template?.parts ?? []).map(
    ([from, to, length]) => [from, module.length + to, length] as const,
  );
  return { path, text, script: `${module}${template?.code ?? ""}`, names, templateParts };
}

function textOutside(text: string, ranges: Ranges): string {
  let outside = "";
  let at = 0;
  for (const [start, end] of inOrder(ranges)) {
    outside += `${text.slice(at, start)} `;
    at = end;
  }
  return `${outside}${text.slice(at)}`;
}

const WORDS = /[A-Za-z_$][\w$]*(?:-[\w$]+)*/g;

function fromKebab(name: string): readonly string[] {
  const camel = name.replace(/-(\w)/g, (_, letter: string) => letter.toUpperCase());
  return [camel, `${camel.charAt(0).toUpperCase()}${camel.slice(1)}`, ...name.split("-")];
}

/** Each component is a module, also one without imports. */
function asModule(script: string): string {
  const space = / {8}/.exec(script);
  if (!space) return script;
  return `${script.slice(0, space.index)}export{}${script.slice(space.index + "export{}".length)}`;
}

function skippedNote(skipped: readonly string[]): Problem {
  const formats = [...new Set(skipped.flatMap((path) => formatOf(path) ?? []))];
  const kinds = formats.map((format) => `.${format}`).join(", ");
  const remedy = refusesConfigCode()
    ? `Their compilers are code of the project, which --no-config-code and ${NO_CONFIG_CODE} refuse to run.`
    : `Install ${formats.map((format) => COMPILERS[format][0]).join(", ")} to include them.`;
  return {
    code: "COMPONENTS_SKIPPED",
    isNote: true,
    message:
      skipped.length === 1
        ? `1 single-file component (${kinds}) was not read. ${remedy}`
        : `${skipped.length} single-file components (${kinds}) were not read. ${remedy}`,
  };
}

/** Templates, or expressions in them, whose uses are not known. */
function unreadNote(unread: readonly { readonly file: string; readonly count: number }[]): Problem {
  const listed = unread.slice(0, FILES_LISTED).map(({ file }) => file);
  const more = unread.length > FILES_LISTED ? ` and ${unread.length - FILES_LISTED} more` : "";
  return {
    code: "TEMPLATES_SKIPPED",
    isNote: true,
    message: `Expressions in the templates of ${listed.join(", ")}${more} cannot be analysed, so that uses in them are not counted. Check these components after a move.`,
  };
}

const FILES_LISTED = 5;

function unreadable(file: string, failure: string): Problem {
  return {
    code: "SYNTAX_ERROR",
    message: `${file} does not compile: ${failure.replace(/\.$/, "")}. Correct it and run again.`,
  };
}
