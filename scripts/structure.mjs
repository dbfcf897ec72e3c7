/**
 * Checks what the linters do not: no cycle of more than two files, also through types, no folder with more than 15 files,
 * imports in one direction, one meaning for each public name, and no document for contributors that names a path that does
 * not exist.
 */
import { existsSync, readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative, resolve } from "node:path";
import { parseSync } from "oxc-parser";

const root = join(import.meta.dirname, "..");
const MOST_FILES = 15;
/** Two files may import types from each other. */
const MOST_FILES_IN_CYCLE = 2;

/** Public entry points. No two of them export the same name. */
const ENTRY_POINTS = [
  "packages/sleeve/src/index.ts",
  "packages/sleeve/src/conform/index.ts",
  "packages/sleeve/src/generated/index.ts",
  "packages/sleeve/src/traced.ts",
  "packages/sleeve/src/vitest.ts",
  "packages/sleeve-cli/src/index.ts",
  "packages/sleeve-cli/src/vite.ts",
];

/** Folders of each package, lowest first: a file imports only from its own folder and from lower ones. */
const LAYERS = {
  "packages/sleeve/src": [
    "shared",
    "surface",
    "forward",
    "layers translate",
    "generated wrappers",
    "conform",
  ],
  "packages/sleeve-cli/src": [
    "documents command-line",
    "compiler parser",
    "uses",
    "types",
    "project",
    "conformance",
    "emit",
    "isolation",
    "generation",
    "check draft drift exports move results surface survey wrap",
    "report",
  ],
};

const problems = [];
for (const [folder, layers] of Object.entries(LAYERS)) {
  const files = sourcesIn(join(root, folder));
  const imports = new Map(files.map((file) => [file, importsOf(file)]));
  for (const cycle of cyclesIn(imports)) {
    if (cycle.length > MOST_FILES_IN_CYCLE) problems.push(`Import cycle: ${listText(cycle)}`);
  }
  problems.push(...upwardImports(join(root, folder), layers, imports));
}
for (const folder of ["packages", "examples", "bench", "docs", "scripts", "tests"])
  crowdedFolders(join(root, folder));
repeatedExports();
missingPaths();

if (problems.length > 0) {
  console.error(problems.join("\n"));
  process.exit(1);
}

function sourcesIn(folder) {
  return readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((entry) => entry.isFile() && entry.name.endsWith(".ts"))
    .map((entry) => join(entry.parentPath, entry.name));
}

function importsOf(file) {
  const { module } = parseSync(file, readFileSync(file, "utf8"));
  const specifiers = [
    ...module.staticImports.map(({ moduleRequest }) => moduleRequest.value),
    ...module.staticExports.flatMap(({ entries }) =>
      entries.flatMap(({ moduleRequest }) => moduleRequest?.value ?? []),
    ),
  ];
  return specifiers
    .filter((specifier) => specifier.startsWith("."))
    .map((specifier) => resolve(dirname(file), specifier));
}

/** Strongly connected components of more than one file (Tarjan, 1972). */
function cyclesIn(imports) {
  const indices = new Map();
  const low = new Map();
  const stack = [];
  const cycles = [];
  const visit = (file) => {
    indices.set(file, indices.size);
    low.set(file, indices.get(file));
    stack.push(file);
    for (const imported of imports.get(file) ?? []) {
      if (!indices.has(imported)) {
        visit(imported);
        low.set(file, Math.min(low.get(file), low.get(imported)));
      } else if (stack.includes(imported)) low.set(file, Math.min(low.get(file), indices.get(imported)));
    }
    if (low.get(file) !== indices.get(file)) return;
    const cycle = stack.splice(stack.indexOf(file));
    if (cycle.length > 1) cycles.push(cycle);
  };
  for (const file of imports.keys()) if (!indices.has(file)) visit(file);
  return cycles;
}

function upwardImports(folder, layers, imports) {
  const levelOf = (file) => {
    const [first, ...rest] = relative(folder, file).split("/");
    return rest.length === 0 ? undefined : layers.findIndex((layer) => layer.split(" ").includes(first));
  };
  const found = [];
  for (const [file, list] of imports) {
    const level = levelOf(file);
    if (level === -1)
      found.push(`${relative(root, file)} is in a folder without a level. Add it to scripts/structure.mjs.`);
    for (const imported of list) {
      const importedLevel = levelOf(imported);
      if (level === undefined || importedLevel === undefined || importedLevel < level) continue;
      const isSameFolder = relative(folder, file).split("/")[0] === relative(folder, imported).split("/")[0];
      if (!isSameFolder)
        found.push(`${relative(root, file)} imports ${relative(root, imported)}, which is not below it.`);
    }
  }
  return found;
}

function crowdedFolders(folder) {
  const entries = readdirSync(folder, { withFileTypes: true });
  // Pictures are all of one kind.
  const files = entries.filter((entry) => entry.isFile() && !entry.name.endsWith(".png"));
  if (files.length > MOST_FILES)
    problems.push(`${relative(root, folder)} has ${files.length} files; divide it by topic.`);
  for (const entry of entries) {
    if (entry.isDirectory() && !/^(node_modules|dist|coverage)$/.test(entry.name))
      crowdedFolders(join(folder, entry.name));
  }
}

/** One declaration may have several entry points, but one name has one meaning. */
function repeatedExports() {
  const originOf = new Map();
  for (const entry of ENTRY_POINTS) {
    const path = join(root, entry);
    const { module } = parseSync(entry, readFileSync(path, "utf8"));
    for (const { exportName, moduleRequest } of module.staticExports.flatMap(({ entries }) => entries)) {
      const origin = moduleRequest ? resolve(dirname(path), moduleRequest.value) : path;
      const earlier = originOf.get(exportName.name);
      if (earlier && earlier !== origin)
        problems.push(
          `${exportName.name} is exported by ${relative(root, earlier)} and by ${relative(root, origin)}.`,
        );
      originOf.set(exportName.name, origin);
    }
  }
}

/** Paths that the documents for contributors name must exist: from the root, or from the sources or tests of a package. */
function missingPaths() {
  const bases = [
    "",
    ...["sleeve", "sleeve-cli"].flatMap((name) =>
      ["", "src", "tests"].map((part) => `packages/${name}/${part}`),
    ),
  ];
  for (const document of [
    "CONTRIBUTING.md",
    "docs/maintainers/engine.md",
    "docs/maintainers/generated-code.md",
  ]) {
    const text = readFileSync(join(root, document), "utf8");
    for (const [, path] of text.matchAll(/`((?:[\w.-]+\/)+[\w.-]*)`/g)) {
      const exists = bases.some((base) => existsSync(join(root, base, path)));
      // Names of modules have the form of paths.
      if (!exists && !/^(?:sleeve|prettier)\//.test(path))
        problems.push(`${document} names ${path}, which does not exist.`);
    }
  }
}

function listText(files) {
  return files.map((file) => relative(root, file)).join(", ");
}
