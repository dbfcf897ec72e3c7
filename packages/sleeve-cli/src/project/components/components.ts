import { existsSync, readFileSync } from "node:fs";
import { join, relative, sep } from "node:path";
import { z } from "zod";
import type { Problem } from "../../errors.ts";
import { NO_CONFIG_CODE, refusesConfigCode } from "../../no-config-code.ts";
import { runProgram } from "../child-processes/run-program.ts";
import { runtimeFileOf } from "../packages/runtime-file.ts";
import { type Format, findComponents, formatOf } from "./find-components.ts";

const rangesSchema = z.array(z.tuple([z.int().min(0), z.int().min(0)]));
const scriptsSchema = z.array(
  z.union([z.strictObject({ modules: z.array(rangesSchema) }), z.strictObject({ failure: z.string() })]),
);

/** Ranges of a file's text. */
export type Ranges = readonly (readonly [start: number, end: number])[];

/** What the process that finds scripts reads and writes. */
export interface ScriptsTask {
  readonly files: readonly { readonly path: string; readonly format: Format; readonly compiler: string }[];
}

/** The scripts of each file, by the module that they belong to. */
export type FoundScripts = readonly (
  | { readonly modules: readonly Ranges[] }
  | { readonly failure: string }
)[];

/** A single-file component. The compiler sees its scripts as a file of their own, with the same positions. */
export interface Component {
  readonly path: string;
  readonly text: string;
  /** The scripts of one module at their positions; everything else is blank. */
  readonly script: string;
  /** Names that occur outside the scripts, where they may be used. */
  readonly names: ReadonlySet<string>;
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
    return format && compiler !== undefined ? [{ path, format, compiler }] : [];
  });
  const skipped = paths.filter((path) => !files.some((file) => file.path === path));
  if (skipped.length > 0) problems.push(skippedNote(skipped));
  const found = files.length > 0 ? scriptsOf({ files }) : [];
  const shown = new Map<string, Component>();
  files.forEach(({ path }, index) => {
    const result = found[index] ?? { failure: "its compiler did not end" };
    if ("modules" in result)
      result.modules.forEach((scripts, module) => {
        const component = componentOf(path, scripts, result.modules.flat());
        const ending = isScript(component, root) ? "js" : "ts";
        shown.set(`${path}${module === 0 ? "" : `.${module}`}.${ending}`, component);
      });
    else problems.push(unreadable(relative(root, path).split(sep).join("/"), result.failure));
  });
  return { shown, problems };
}

/** Whether a component is JavaScript. A compiler config decides for all files. */
function isScript({ path, text }: Component, root: string): boolean {
  if (existsSync(join(root, "tsconfig.json")) || path.endsWith(".astro")) return false;
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
function componentOf(path: string, scripts: Ranges, all: Ranges): Component {
  const text = readFileSync(path, "utf8").replace(/^\uFEFF/, "");
  const script = blankOutside(text, scripts);
  const rest = textOutside(text, all);
  const names = new Set(rest.match(WORDS) ?? []);
  // `$count` subscribes to `count`; `use-name` means `useName`.
  for (const name of script.match(/\$[A-Za-z_]\w*/g) ?? []) names.add(name.slice(1));
  for (const name of [...names]) {
    if (name.startsWith("$")) names.add(name.slice(1));
    if (name.includes("-")) for (const written of fromKebab(name)) names.add(written);
  }
  return { path, text, script: asModule(script), names };
}

/** Returns a text with everything outside some ranges blank, so that positions stay the same. */
function blankOutside(text: string, ranges: Ranges): string {
  const blank = (part: string) => part.replace(/[^\r\n]/g, " ");
  let kept = "";
  let at = 0;
  for (const [start, end] of inOrder(ranges)) {
    kept += `${blank(text.slice(at, start))}${text.slice(start, end)}`;
    at = end;
  }
  return `${kept}${blank(text.slice(at))}`;
}

function textOutside(text: string, ranges: Ranges): string {
  let rest = "";
  let at = 0;
  for (const [start, end] of inOrder(ranges)) {
    rest += `${text.slice(at, start)} `;
    at = end;
  }
  return `${rest}${text.slice(at)}`;
}

function inOrder(ranges: Ranges): Ranges {
  return [...ranges].sort(([left], [right]) => left - right);
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

function unreadable(file: string, failure: string): Problem {
  return {
    code: "SYNTAX_ERROR",
    message: `${file} does not compile: ${failure.replace(/\.$/, "")}. Correct it and run again.`,
  };
}
