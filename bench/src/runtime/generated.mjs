import { spawnSync } from "node:child_process";
import { mkdirSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { pathToFileURL } from "node:url";
import { rolldown } from "rolldown";
import { populationSource } from "./population.mjs";

const root = join(import.meta.dirname, "../../..");
const cli = join(root, "packages/sleeve-cli/dist/cli.js");

/**
 * Generates forwarders of the classes of a population, and bundles them with it.
 *
 * @param {{ classes: number, members: number }} size
 * @param {string} name so that each contender has files of its own
 * @returns {Promise<object>} the population, with a list `generated` of the forwarders
 */
export function loadGenerated(size, name) {
  // Parameters of subjects are numbers.
  const source = populationSource(size)
    .replace(
      /^( {2}member\w*)\(([^)]*)\) \{/gm,
      (_, member, list) => `${member}(${list.replace(/\w+/g, "$&: number")}) {`,
    )
    .replace(/total = (\d+);/g, "total: number = $1;");
  return load({ source, name, classes: size.classes, type: "Subject", args: [] });
}

/**
 * Generates decorators of classes, and bundles them.
 *
 * @param {string} source exports the classes `Gauge0`, `Gauge1` and so on
 * @param {number} classes their number
 * @param {readonly string[]} layers
 * @returns {Promise<object>} the classes, with a list `generated` of the decorators
 */
export function loadDecorators(source, classes, layers) {
  const args = ["--as", "decorator", ...layers.flatMap((layer) => ["--layer", layer])];
  return load({ source, name: `layers-${classes}`, classes, type: "Gauge", args });
}

async function load({ source, name, classes, type, args }) {
  const folder = join(import.meta.dirname, `../../dist/generated-${name}`);
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(join(folder, "src"), { recursive: true });
  const write = (file, text) => writeFileSync(join(folder, file), text);
  write("package.json", '{ "type": "module" }');
  const compilerOptions = {
    module: "nodenext",
    target: "es2023",
    types: [],
    allowImportingTsExtensions: true,
    noEmit: true,
  };
  write("tsconfig.json", JSON.stringify({ compilerOptions, include: ["src"] }));
  write("src/population.ts", `// @ts-nocheck\n${source}`);
  const command = ["wrap", "src/population.ts", ...args, "--to", "src/generated", "--write", "--json"];
  const { stdout, stderr } = spawnSync(process.execPath, [cli, ...command], {
    cwd: folder,
    encoding: "utf8",
    maxBuffer: 1 << 28,
  });
  const { wrappers } = JSON.parse(stdout || `{ "wrappers": [] }`);
  const chosen = wrappers.filter((wrapper) => new RegExp(`#${type}\\d+$`).test(wrapper.source));
  if (chosen.length !== classes) throw new Error(`Not all classes have a wrapper. ${stderr}`);
  const ordered = chosen.toSorted((left, right) => indexOf(left) - indexOf(right));
  write(
    "src/all.ts",
    `export * from "./population.ts";\n${ordered.map((wrapper) => `import { ${wrapper.name} } from "../${wrapper.file}";`).join("\n")}\nexport const generated = [${ordered.map((wrapper) => wrapper.name)}];\n`,
  );
  const bundle = await rolldown({ input: join(folder, "src/all.ts"), external: /^sleeve/, onLog() {} });
  await bundle.write({ dir: join(folder, "dist"), format: "esm" });
  const [file] = readdirSync(join(folder, "dist"));
  return import(pathToFileURL(join(folder, "dist", file)).href);
}

function indexOf({ source }) {
  return Number(/\d+$/.exec(source)?.[0]);
}
