import { spawnSync } from "node:child_process";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { transform } from "@astrojs/compiler";
import { compile as compileMdx } from "@mdx-js/mdx";
import { compileScript, parse } from "@vue/compiler-sfc";
import { type Plugin, rolldown } from "rolldown";
import { compile as compileSvelte } from "svelte/compiler";
import { type ComponentCase, MODULES } from "./component-cases.ts";

interface Compiled {
  readonly code: string;
  readonly moduleType: "js" | "ts";
}

/** How a format is compiled, and the module that prints a page of it. */
interface Framework {
  readonly compile: (path: string, text: string) => Compiled | Promise<Compiled>;
  readonly print: (component: string) => string;
  /** Returns the scripts that a browser would run with the page. Default: none. */
  readonly scriptsIn?: (text: string) => Promise<string>;
  /** Modules that exist only here. */
  readonly virtual?: Readonly<Record<string, string>>;
}

const ASTRO_RUNTIME = `
const text = (value) => Array.isArray(value) ? value.map(text).join("") : String(value ?? "");
export const Fragment = "fragment";
export const render = (parts, ...values) => parts.map((part, index) => part + text(values[index])).join("");
export const createComponent = (component) => component;
export const maybeRenderHead = () => "";
export const renderScript = () => "";
export const createMetadata = (path, metadata) => metadata;
const unused = () => { throw new Error("The page does not use it."); };
export { unused as createAstro, unused as renderComponent, unused as renderHead, unused as unescapeHTML,
  unused as renderSlot, unused as mergeSlots, unused as spreadAttributes, unused as defineStyleVars,
  unused as defineScriptVars, unused as renderTransition, unused as createTransitionScope };
export const addAttribute = (value, name) => \` \${name}="\${value}"\`;
`;

const JSX_RUNTIME = `
const text = (value) => Array.isArray(value) ? value.map(text).join("") : String(value ?? "");
export const Fragment = ({ children }) => text(children);
export const jsx = (type, props) => typeof type === "function" ? type(props) : \`<\${type}>\${text(props.children)}</\${type}>\`;
export const jsxs = jsx;
`;

const FRAMEWORKS: Readonly<Record<string, Framework>> = {
  vue: {
    compile(path, text) {
      const { descriptor } = parse(text, { filename: path });
      const options = { id: "office", inlineTemplate: true, templateOptions: { ssr: true, ssrCssVars: [] } };
      return { code: compileScript(descriptor, options).content, moduleType: "ts" };
    },
    print: (component) => `
      import Office from ${component};
      import { createSSRApp } from "vue";
      import { renderToString } from "vue/server-renderer";
      console.log(await renderToString(createSSRApp(Office)));`,
  },
  svelte: {
    compile: (path, text) => ({
      code: compileSvelte(text, { filename: path, generate: "server" }).js.code,
      moduleType: "js",
    }),
    print: (component) => `
      import Office, { text } from ${component};
      import { render } from "svelte/server";
      console.log(render(Office).body, text);`,
  },
  astro: {
    async compile(path, text) {
      const { code } = await transform(text, { filename: path, internalURL: "astro-runtime" });
      return { code, moduleType: "ts" };
    },
    async scriptsIn(text) {
      const { scripts } = await transform(text);
      return scripts.map((script) => (script.type === "inline" ? script.code : "")).join("\n");
    },
    print: (component) => `
      import Office from ${component};
      console.log(Office({}, {}, {}));
      await import("./page-scripts.ts");`,
    virtual: { "astro-runtime": ASTRO_RUNTIME },
  },
  mdx: {
    compile: async (_, text) => ({
      code: String(await compileMdx(text, { jsxImportSource: "test" })),
      moduleType: "js",
    }),
    print: (component) => `
      import Office, { text } from ${component};
      console.log(Office({}), text);`,
    virtual: { "test/jsx-runtime": JSX_RUNTIME },
  },
};

/** Compiles a component with its framework, bundles and runs it, and returns what it prints. */
export async function renderedBy(root: string, { file }: ComponentCase): Promise<string> {
  const ending = file.split(".").at(-1) ?? "";
  const framework = FRAMEWORKS[ending];
  if (!framework) throw new Error(`No framework has files that end in .${ending}.`);
  const { compile, print, scriptsIn, virtual = {} } = framework;
  const plugin: Plugin = {
    name: "components",
    resolveId: (id) => {
      if (id in virtual) return `\0${id}`;
      return id.endsWith("page-scripts.ts") ? join(root, "src/page-scripts.ts") : undefined;
    },
    load(id) {
      if (id.startsWith("\0") && id.slice(1) in virtual) return virtual[id.slice(1)];
      if (id.endsWith("page-scripts.ts")) return scriptsIn?.(readFileSync(join(root, file), "utf8"));
      return id.endsWith(`.${ending}`) ? compile(id, readFileSync(id, "utf8")) : undefined;
    },
  };
  const entry = join(root, "src/print.mjs");
  writeFileSync(entry, print(JSON.stringify(join(root, file))));
  const build = await rolldown({
    input: entry,
    platform: "node",
    resolve: { modules: ["node_modules", MODULES] },
    plugins: [plugin],
  });
  const output = join(root, "printed.mjs");
  await build.write({ file: output, format: "esm", codeSplitting: false });
  await build.close();
  const { stdout, stderr } = spawnSync(process.execPath, [output], { encoding: "utf8" });
  if (stderr !== "") throw new Error(stderr);
  return stdout;
}
