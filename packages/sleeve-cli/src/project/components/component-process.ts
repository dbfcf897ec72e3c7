import { readFileSync } from "node:fs";
import { pathToFileURL } from "node:url";
import { reasonOf, startProgram } from "../child-processes/child-program.ts";
import type { Format } from "./find-components.ts";
import {
  blankOutside,
  type ComponentModules,
  type FoundScripts,
  type Ranges,
  type ScriptsTask,
} from "./scripts.ts";
import { type AstroNode, astroTemplateCode } from "./templates/astro-template.ts";
import { type MarkdownNode, mdxTemplateCode } from "./templates/mdx-template.ts";
import { type SvelteNode, svelteTemplateCode } from "./templates/svelte-template.ts";
import { type VueNode, vueTemplateCode } from "./templates/vue-template.ts";

// A process that finds the scripts of single-file components with the project's own compilers.

/** The parts of the compilers' interfaces that are used; they differ between versions. */
interface Compiler {
  parse?: (text: unknown, options?: object) => unknown;
  parseComponent?: (text: string) => VueDescriptor;
  preprocess?: (text: string, processors: object) => Promise<unknown>;
  createProcessor?: () => { parse(text: string): MarkdownNode };
  default?: Compiler;
}

interface VueBlock {
  readonly start?: number;
  readonly end?: number;
  readonly src?: string | undefined;
  readonly loc?: { readonly start: { readonly offset: number }; readonly end: { readonly offset: number } };
}

interface VueDescriptor {
  readonly script?: VueBlock | null;
  readonly scriptSetup?: VueBlock | null;
  readonly template?: { readonly ast?: VueNode; readonly content?: string; readonly lang?: string } | null;
}

type Reader = (
  compiler: Compiler,
  text: string,
  isTyped: boolean,
) => ComponentModules | Promise<ComponentModules>;

/** What a reader returns: the ranges of the scripts, by the module that they belong to, and the template of the first. */
const READERS: Readonly<Record<Format, Reader>> = {
  vue: vueScripts,
  svelte: svelteScripts,
  astro: astroScripts,
  mdx: mdxScripts,
};

const { input, send } = startProgram<ScriptsTask>();
const compilers = new Map<string, Compiler>();
const results: FoundScripts[number][] = [];
for (const { path, format, compiler, isTyped } of input.files) {
  try {
    const text = readFileSync(path, "utf8").replace(/^\uFEFF/, "");
    results.push(await READERS[format](await load(compiler), text, isTyped));
  } catch (error) {
    results.push({ failure: reasonOf(error) });
  }
}
send(results);
process.exit(0);

async function load(path: string): Promise<Compiler> {
  const known = compilers.get(path);
  if (known) return known;
  const loaded = (await import(pathToFileURL(path).href)) as Compiler;
  const compiler = { ...loaded.default, ...loaded };
  compilers.set(path, compiler);
  return compiler;
}

function vueScripts({ parse, parseComponent }: Compiler, text: string, isTyped: boolean): ComponentModules {
  const descriptor = parseComponent ? parseComponent(text) : vueDescriptor(parse?.(text, {}), parse, text);
  const scripts = [descriptor.script, descriptor.scriptSetup].flatMap((block) => {
    const start = block?.loc?.start.offset ?? block?.start;
    const end = block?.loc?.end.offset ?? block?.end;
    return start === undefined || end === undefined || block?.src !== undefined
      ? []
      : [[start, end] as const];
  });
  const { template, scriptSetup } = descriptor;
  if (!template) return { modules: [scripts] };
  // The names in other templates are those of a component object, which its compiler makes at run time.
  const isReadable = template.ast && scriptSetup && (template.lang ?? "html") === "html";
  if (!isReadable) return { modules: [scripts], template: unreadTemplate(template.content ?? "") };
  return {
    modules: [scripts],
    template: vueTemplateCode(text, isTyped, template.ast, blankOutside(text, scripts)),
  };
}

/** A template with expressions that are not read. */
function unreadTemplate(content: string) {
  const hasExpressions = /\{\{|\s(?:v-|[:@#])[\w-]/.test(content) || content === "";
  return hasExpressions ? { code: "", parts: [], skipped: ["the whole template"] } : undefined;
}

/** Version 3 takes the text, and version 2.7 an object; version 3 lists errors beside the descriptor. */
function vueDescriptor(parsed: unknown, parse: Compiler["parse"], text: string): VueDescriptor {
  const { descriptor, errors = [] } = (parsed ?? {}) as {
    readonly descriptor?: VueDescriptor;
    readonly errors?: readonly { readonly message: string }[];
  };
  if (errors[0]) throw new Error(errors[0].message);
  return descriptor ?? (parse?.({ source: text, filename: "component.vue" }) as VueDescriptor);
}

/** The scripts are handed to a preprocessor before they are parsed, in any language. */
async function svelteScripts(
  { preprocess, parse }: Compiler,
  text: string,
  isTyped: boolean,
): Promise<ComponentModules> {
  const ranges: [number, number][] = [];
  let at = 0;
  await preprocess?.(text, {
    script: ({ content }: { readonly content: string }) => {
      const start = text.indexOf(content, at);
      if (start >= 0) ranges.push([start, start + content.length]);
      at = start + content.length;
      return undefined;
    },
  });
  // What is left must be a component.
  let remaining = text;
  for (const [start, end] of ranges)
    remaining = `${remaining.slice(0, start)}${remaining.slice(start, end).replace(/[^\r\n]/g, " ")}${remaining.slice(end)}`;
  const tree = parse?.(remaining) as SvelteNode | undefined;
  const scripts = ranges as Ranges;
  return {
    modules: [scripts],
    template: tree && svelteTemplateCode(text, isTyped, tree, blankOutside(text, scripts)),
  };
}

async function astroScripts({ parse }: Compiler, text: string): Promise<ComponentModules> {
  const parsed = (await parse?.(text, { position: true })) as { readonly ast: AstroNode } | undefined;
  // The frontmatter runs on the server, and each script in the browser.
  const modules: Ranges[] = [];
  const bytes = Buffer.from(text);
  const offsetOf = (byte: number) => bytes.subarray(0, byte).toString("utf8").length;
  const add = (value: string | undefined, from: number | undefined) => {
    const start = value && from !== undefined ? text.indexOf(value, offsetOf(from)) : -1;
    if (value && start >= 0) modules.push([[start, start + value.length]]);
  };
  const visit = (node: AstroNode): void => {
    if (node.type === "frontmatter") add(node.value, node.position?.start?.offset);
    const isScript = node.type === "element" && node.name === "script";
    for (const child of node.children ?? []) {
      if (isScript && child.type === "text")
        add(child.value, child.position?.start?.offset ?? node.position?.start?.offset);
      else visit(child);
    }
  };
  if (parsed) visit(parsed.ast);
  const [frontmatter] = modules;
  if (!parsed || !frontmatter || !text.trimStart().startsWith("---")) return { modules };
  const script = blankOutside(text, frontmatter);
  return { modules, template: astroTemplateCode(text, parsed.ast, offsetOf, script) };
}

function mdxScripts({ createProcessor }: Compiler, text: string, isTyped: boolean): ComponentModules {
  const tree = createProcessor?.().parse(text);
  const scripts = (tree?.children ?? []).flatMap(({ type, position }) =>
    type === "mdxjsEsm" && position ? [[position.start.offset, position.end.offset] as const] : [],
  );
  return {
    modules: [scripts],
    template: tree && mdxTemplateCode(text, isTyped, tree, blankOutside(text, scripts)),
  };
}
