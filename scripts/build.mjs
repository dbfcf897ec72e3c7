/**
 * Builds both packages, then the examples.
 *
 * The compiler checks types and writes declarations to `build/`. The bundler writes one module for each entry point, with
 * shared chunks, to `dist/`, next to the declarations that the entry points need.
 */
import { execFileSync } from "node:child_process";
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from "node:fs";
import { dirname, join, relative, resolve } from "node:path";
import { decode, encode } from "@jridgewell/sourcemap-codec";
import { rolldown } from "rolldown";
import { repeatTemplates, TEMPLATES } from "./repeat-templates.mjs";

const root = join(import.meta.dirname, "..");
const tsc = join(root, "node_modules/typescript/bin/tsc");

const OPTIONS = {
  // The command bundles the code it shares with the library, so that it does not depend on it.
  external: (id) => !/^(\.|\/|\0|@oxc-project\/runtime|sleeve(?:\/generated)?$)/.test(id),
  platform: "neutral",
  // The oldest runtime that is supported; browsers of the same age have the same syntax.
  transform: { target: "node20.19" },
  treeshake: { moduleSideEffects: false },
  onLog(level, log) {
    if (level !== "warn") return;
    process.stderr.write(`${log.message}\n`);
    process.exitCode = 1;
  },
};

const OUTPUT = {
  format: "esm",
  entryFileNames: "[name].js",
  chunkFileNames: "chunks/[name].js",
  // Few files load faster than many, and bundlers still remove unused code.
  codeSplitting: { groups: [{ name: "core", test: /sleeve\/src\/(shared|surface|forward|layers)\// }] },
  minifyInternalExports: false,
  comments: { legal: true, annotation: true, jsdoc: false },
  // Names and statements stay as they are, for readable stack traces.
  minify: { compress: false, mangle: false, codegen: { removeWhitespace: false } },
};

const ENTRIES = {
  sleeve: ["index", "conform/index", "generated/index", "traced", "vitest"],
  "sleeve-cli": [
    "index",
    "cli",
    "vite",
    "project/reading/file-reader",
    "project/reading/deep-parser",
    "project/components/component-process",
    "project/child-processes/child-guard",
    "project/child-processes/config-process",
    "draft/contract/scenario-process",
    "isolation/verification/own-compiler-process",
    "compiler/watchdog",
    "report/progress-thread",
  ],
};

/** The call-site templates. The exports of `sleeve` resolve to fewer of them for browsers. */
const TEMPLATES_MODULE = "sleeve/internal/templates";

/** The worker is next to the chunk that starts it. */
const OUTPUT_NAMES = {
  "project/reading/file-reader": "chunks/file-reader",
  "project/reading/deep-parser": "chunks/deep-parser",
  "project/components/component-process": "chunks/component-process",
  "project/child-processes/child-guard": "chunks/child-guard",
  "project/child-processes/config-process": "chunks/config-process",
  "draft/contract/scenario-process": "chunks/scenario-process",
  "isolation/verification/own-compiler-process": "chunks/own-compiler-process",
  "compiler/watchdog": "chunks/watchdog",
  "report/progress-thread": "chunks/progress-thread",
};

compile("packages/sleeve");
await bundle("sleeve", { external: TEMPLATES_MODULE });
await writeTemplates("templates", TEMPLATES.node);
await writeTemplates("templates-browser", TEMPLATES.browser);
copyDeclarations("sleeve");
compile("packages/sleeve-cli");
await bundle("sleeve-cli");
copyDeclarations("sleeve-cli");
compile("examples/harbour/before");
compile("examples/harbour/after");

function compile(folder) {
  try {
    execFileSync(process.execPath, [tsc, "-b", join(root, folder)], { encoding: "utf8", stdio: "pipe" });
  } catch (error) {
    process.stderr.write(`${error.stdout}${error.stderr}`);
    process.exit(1);
  }
}

/** Writes the entry points of a package, without comments, which are in the declarations. */
async function bundle(name, { external } = {}) {
  const source = join(root, "packages", name, "src");
  const output = join(root, "packages", name, "dist");
  rmSync(join(output, "chunks"), { recursive: true, force: true });
  const build = await rolldown({
    ...OPTIONS,
    input: Object.fromEntries(
      ENTRIES[name].map((entry) => [OUTPUT_NAMES[entry] ?? entry, join(source, `${entry}.ts`)]),
    ),
    plugins: [
      {
        name: "files-as-text",
        resolveId: (id, importer) => (id.endsWith("?raw") ? resolve(dirname(importer), id) : undefined),
        load: (id) =>
          id.endsWith("?raw")
            ? `export default ${JSON.stringify(readFileSync(id.slice(0, -4), "utf8"))};`
            : undefined,
      },
      ...(external
        ? [
            {
              name: "external-templates",
              resolveId: (id) =>
                id.endsWith("/templates.ts") ? { id: external, external: true } : undefined,
            },
          ]
        : []),
    ],
  });
  const { output: files } = await build.write({ ...OUTPUT, dir: output, sourcemap: true });
  await build.close();
  for (const file of files)
    if (file.type === "chunk" && file.map) finishMap(join(output, file.fileName), file.moduleIds);
}

async function writeTemplates(name, counts) {
  const folder = join(root, "packages/sleeve/src/forward/closed");
  const build = await rolldown({
    ...OPTIONS,
    input: { [name]: join(folder, "templates.ts") },
    plugins: [repeatTemplates(counts)],
  });
  await build.write({
    ...OUTPUT,
    dir: join(root, "packages/sleeve/dist/chunks"),
    minify: { compress: true, mangle: { toplevel: false }, codegen: { removeWhitespace: true } },
  });
  await build.close();
}

/**
 * Reduces source maps: contracts, which run in tests, have none, and the others give the line in the source only. Columns
 * and sources would take a third of the package, whose code is readable as it is.
 */
function finishMap(file, moduleIds) {
  if (moduleIds.some((id) => /\/src\/(?:conform\/|vitest\.ts)/.test(id))) {
    writeFileSync(file, readFileSync(file, "utf8").replace(/\n\/\/# sourceMappingURL=.*\n?$/, "\n"));
    return rmSync(`${file}.map`);
  }
  const map = JSON.parse(readFileSync(`${file}.map`, "utf8"));
  delete map.sourcesContent;
  const lines = decode(map.mappings).map(([first]) => (first ? [first.slice(0, 4)] : []));
  Object.assign(map, { names: [], mappings: encode(lines) });
  return writeFileSync(`${file}.map`, JSON.stringify(map));
}

/** Copies the declarations of the entry points, and those that they import. */
function copyDeclarations(name) {
  const build = join(root, "packages", name, "build");
  const output = join(root, "packages", name, "dist");
  const waiting = ENTRIES[name].filter((entry) =>
    existsSync(join(root, "packages", name, "src", `${entry}.ts`)),
  );
  const queue = waiting.filter((entry) => isPublic(name, entry)).map((entry) => join(build, `${entry}.d.ts`));
  const copied = new Set();
  for (const file of queue) {
    if (copied.has(file)) continue;
    copied.add(file);
    const target = join(output, relative(build, file));
    mkdirSync(dirname(target), { recursive: true });
    copyFileSync(file, target);
    const text = readFileSync(file, "utf8");
    for (const [, specifier] of text.matchAll(/(?:from|import\()\s*["'](\.[^"']+)["']/g)) {
      queue.push(resolve(dirname(file), specifier.replace(/\.(ts|js)$/, ".d.ts")));
    }
  }
  for (const file of readdirSync(output, { recursive: true }).map((path) => join(output, path))) {
    if (file.endsWith(".d.ts") && !copied.has(join(build, relative(output, file)))) rmSync(file);
  }
}

/** Whether an entry is one that users import, and not one that the package itself loads. */
function isPublic(name, entry) {
  const { exports } = JSON.parse(readFileSync(join(root, "packages", name, "package.json"), "utf8"));
  return JSON.stringify(exports).includes(`./dist/${entry}.d.ts`);
}
