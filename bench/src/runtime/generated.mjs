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
export async function loadGenerated(size, name) {
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
  // Parameters of subjects are numbers.
  const typed = populationSource(size)
    .replace(
      /^( {2}member\w*)\(([^)]*)\) \{/gm,
      (_, member, list) => `${member}(${list.replace(/\w+/g, "$&: number")}) {`,
    )
    .replace(/total = (\d+);/g, "total: number = $1;");
  write("src/population.ts", `// @ts-nocheck\n${typed}`);
  const args = [cli, "wrap", "src/population.ts", "--to", "src/generated", "--write", "--json"];
  const { stdout, stderr } = spawnSync(process.execPath, args, {
    cwd: folder,
    encoding: "utf8",
    maxBuffer: 1 << 28,
  });
  const { wrappers } = JSON.parse(stdout || `{ "wrappers": [] }`);
  const chosen = wrappers.filter(({ source }) => /#Subject\d+$/.test(source));
  if (chosen.length !== size.classes) throw new Error(`Not all classes have a forwarder. ${stderr}`);
  const ordered = chosen.toSorted((left, right) => indexOf(left) - indexOf(right));
  write(
    "src/all.ts",
    `export * from "./population.ts";\n${ordered.map(({ name, file }) => `import { ${name} } from "../${file}";`).join("\n")}\nexport const generated = [${ordered.map((wrapper) => wrapper.name)}];\n`,
  );
  const bundle = await rolldown({ input: join(folder, "src/all.ts"), onLog() {} });
  await bundle.write({ dir: join(folder, "dist"), format: "esm" });
  const [file] = readdirSync(join(folder, "dist"));
  return import(pathToFileURL(join(folder, "dist", file)).href);
}

function indexOf({ source }) {
  return Number(/\d+$/.exec(source)?.[0]);
}
