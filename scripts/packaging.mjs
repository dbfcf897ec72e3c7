/**
 * Packs both packages, installs them in empty folders outside the repository, and tests them there:
 * imports, `require`, declarations under several compilers and settings, Vitest 3.2 and 4.1, and the command.
 */
import { execFileSync, spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const root = join(import.meta.dirname, "..");
const empty = mkdtempSync(join(tmpdir(), "sleeve-packaging-"));
const MAX_UNPACKED_BYTES = 1_000_000;

/** Compilers of consumers. Older ones cannot compile `require` of an ES module, so they use `import()` there. */
const COMPILERS = { 5.4: "5.4.5", 5.9: "5.9.3", 6: "6.0.3", 7: "7.0.2" };

const USES = `import { adapter, bridge, cached, decorate, facade, logging, proxy } from "sleeve";
import { contract, decoratorOf } from "sleeve/conform";
import { CallLog } from "sleeve/generated";
import { traced } from "sleeve/traced";
import type { Config } from "sleeve-cli";
interface Target { double(value: number): number }
const make = adapter<Target, { twice(value: number): number }>({ double: "twice" });
export const target: Target = decorate(make({ twice: (value) => value * 2 }), logging({ only: ["double"] }), traced());
export const late: Target = decorate(proxy(() => target), cached({ only: ["double"], ttl: "10m" }));
export const port: Target = bridge<Target>({ late }, { start: "late" }).port;
export const office = facade({ port }, (operation) => ({ go: operation<number>().steps({ twice: ({ port }, { input }) => port.double(input) }) }));
export const answer = office.go(2) as Promise<{ readonly twice: number }>;
export const doubling = contract<Target>("Target", { surface: { double: "method" } });
export const wrapped = decoratorOf<Target>({ subject: () => target, wrap: (subject) => decorate(subject) });
export const log = new CallLog({ logger: { info: () => {}, error: () => {} } });
export const config: Config = { targets: {} };
`;

const SETTINGS = {
  nodenext: { module: "nodenext", moduleResolution: "nodenext" },
  bundler: { module: "esnext", moduleResolution: "bundler" },
};

try {
  const [library, cli] = ["packages/sleeve", "packages/sleeve-cli"].map(pack);
  checkSize(library);
  const project = folderOf("consumer", { type: "module" });
  npm(["install", library, cli, "fast-check@4", "@opentelemetry/api@1"], project);
  useLibrary(project);
  useCommand(project);
  // The compiler does not depend on the version of Node.js.
  const isRunTime = process.argv.includes("--run-time");
  if (!isRunTime) useCompilers(project);
  for (const version of isRunTime ? ["4.1"] : ["3.2", "4.1"]) useVitest(library, version);
  console.log("Both packages install in empty folders, and work there.");
} finally {
  rmSync(empty, { recursive: true, force: true });
}

function folderOf(name, manifest = {}) {
  const folder = join(empty, name);
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, "package.json"), JSON.stringify({ name, private: true, ...manifest }));
  return folder;
}

function pack(folder) {
  const [{ filename, files }] = JSON.parse(
    npm(["pack", "--json", "--pack-destination", empty], join(root, folder)),
  );
  const { exports } = JSON.parse(readFileSync(join(root, folder, "package.json"), "utf8"));
  const packed = files.map(({ path }) => `./${path}`);
  const wanted = Object.values(exports).flatMap((entry) =>
    typeof entry === "string" ? [entry] : Object.values(entry),
  );
  for (const path of [...wanted, "./LICENSE", "./README.md"]) {
    if (!packed.some((file) => matches(file, path))) throw new Error(`${folder} is packed without ${path}.`);
  }
  const unwanted = files.find(({ path }) => /(^|\/)(tests|build)\/|\.tsbuildinfo$/.test(path));
  if (unwanted) throw new Error(`${folder} packs tests or build state: ${unwanted.path}.`);
  return join(empty, filename);
}

/** Whether a path equals another, in which a star matches any name. */
function matches(path, wanted) {
  const [before, after] = wanted.split("*");
  return after === undefined ? path === wanted : path.startsWith(before) && path.endsWith(after);
}

function checkSize(tarball) {
  const unpacked = join(empty, "unpacked");
  mkdirSync(unpacked);
  execFileSync("tar", ["-xzf", tarball, "-C", unpacked]);
  const bytes = readdirSync(unpacked, { recursive: true })
    .map((file) => statSync(join(unpacked, file)))
    .reduce((sum, stat) => sum + (stat.isFile() ? stat.size : 0), 0);
  if (bytes > MAX_UNPACKED_BYTES)
    throw new Error(`sleeve unpacks to ${bytes} bytes; ${MAX_UNPACKED_BYTES} are allowed.`);
  console.log(`sleeve unpacks to ${(bytes / 1000).toFixed(0)} kB.`);
}

function useLibrary(folder) {
  const use = `
const samples = [];
const make = adapter({ double: (subject, value) => subject.times * value }, { name: "doubler" });
const doubler = decorate(make({ times: 2 }), timing({ onSample: (sample) => samples.push(sample.member) }));
if (doubler.double(21) !== 42 || samples.join() !== "double") throw new Error("the library does not work");
`;
  writeFileSync(join(folder, "use.mjs"), `import { adapter, decorate, timing } from "sleeve";${use}`);
  writeFileSync(join(folder, "use.cjs"), `const { adapter, decorate, timing } = require("sleeve");${use}`);
  node(["use.mjs"], folder);
  node(["use.cjs"], folder);
  writeFileSync(
    join(folder, "browser.mjs"),
    `import { Forwarding } from "sleeve/internal/templates";
import { Forwarding as Same } from "sleeve/internal/templates";
if (Forwarding !== Same || Forwarding.calls.length > 4) throw new Error("browsers get the templates of Node.js");`,
  );
  node(["--conditions=browser", "browser.mjs"], folder);
  console.log(`Runs on Node.js ${process.versions.node}: import, require and the browser condition.`);
}

function useCompilers(folder) {
  const compilers = Object.entries(COMPILERS);
  const packages = compilers.map(([name, version]) => `typescript-${name}@npm:typescript@${version}`);
  npm(["install", "--no-save", ...packages], folder);
  for (const [name, version] of compilers) useTypes(folder, name, version);
}

function useTypes(folder, name, version) {
  const compiler = join(folder, "node_modules", `typescript-${name}`, "bin/tsc");
  const check = (settings, file, text) => {
    const types = join(folder, `types-${name}-${settings}`);
    mkdirSync(types, { recursive: true });
    writeFileSync(join(types, file), text);
    const options = { strict: true, skipLibCheck: false, noEmit: true, target: "es2022", types: [] };
    const compilerOptions = {
      ...options,
      lib: ["es2023", "esnext.disposable", "dom"],
      ...(SETTINGS[settings] ?? SETTINGS.nodenext),
    };
    writeFileSync(join(types, "tsconfig.json"), JSON.stringify({ compilerOptions, include: [file] }));
    const { status, stdout } = spawnSync(process.execPath, [compiler, "-p", types], { encoding: "utf8" });
    if (status !== 0) throw new Error(`TypeScript ${version}, ${settings}:\n${stdout}`);
  };
  check("nodenext", "use.mts", USES);
  check("bundler", "use.ts", USES);
  const canRequire = Number(version.split(".")[0]) > 5 || version.startsWith("5.9");
  check(
    "commonjs",
    "use.cts",
    canRequire
      ? 'import sleeve = require("sleeve");\nexport const seconds: number = sleeve.decorate({ tick: () => 1 }).tick();\n'
      : 'export const seconds: Promise<number> = import("sleeve").then((sleeve) => sleeve.decorate({ tick: () => 1 }).tick());\n',
  );
  console.log(
    `Declarations compile with TypeScript ${version}: nodenext, bundler, CommonJS${canRequire ? "" : " by import()"}.`,
  );
}

/** A plain install with Vitest, and a contract that runs in it. */
function useVitest(library, version) {
  const folder = folderOf(`vitest-${version}`, { type: "module" });
  npm(["install", library, `vitest@~${version}`, "fast-check@4"], folder);
  writeFileSync(
    join(folder, "bell.test.js"),
    `import { contract } from "sleeve/conform";
import { conforms } from "sleeve/vitest";
conforms(contract("Bell", { surface: { ring: "method" } }), { brass: () => ({ ring: () => "ding" }) });
`,
  );
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [join(folder, "node_modules/vitest/vitest.mjs"), "run"],
    {
      cwd: folder,
      encoding: "utf8",
      env: { ...process.env, NO_COLOR: "1" },
    },
  );
  if (status !== 0 || !/Tests\s+\d+ passed/.test(stdout))
    throw new Error(`Vitest ${version}: ${stdout}${stderr}`);
  console.log(`A contract runs under Vitest ${version}.`);
}

function useCommand(folder) {
  const project = join(folder, "project");
  mkdirSync(project);
  writeFileSync(join(project, "a.js"), 'import { createColors } from "picocolors";\ncreateColors();\n');
  const bin = join(folder, "node_modules/.bin/sleeve");
  const { status, stdout, stderr } = spawnSync(bin, ["survey", project], {
    encoding: "utf8",
    shell: process.platform === "win32",
  });
  if (status !== 0 || !stdout.includes("picocolors"))
    throw new Error(`The command ended with ${status}: ${stdout}${stderr}`);
  usePlugin(folder, project, bin);
}

/** The plugin finds the command, and a file that is stale, in a build. */
function usePlugin(folder, project, bin) {
  writeFileSync(join(project, "tides.ts"), "export interface Tides { heightAt(hour: number): number }\n");
  writeFileSync(
    join(project, "tsconfig.json"),
    JSON.stringify({ compilerOptions: { strict: true, module: "nodenext", types: [] }, include: ["*.ts"] }),
  );
  const args = ["wrap", "tides.ts#Tides", "--as", "decorator", "--layer", "timing", "--write"];
  const { status, stderr } = spawnSync(bin, args, { cwd: project, encoding: "utf8" });
  if (status !== 0) throw new Error(`sleeve wrap ended with ${status}: ${stderr}`);
  writeFileSync(
    join(folder, "plugin.mjs"),
    `import { writeFileSync } from "node:fs";
import { generatedFiles } from "sleeve-cli/vite";
const build = async () => {
  const errors = [];
  const plugin = generatedFiles({ folder: "project" });
  plugin.configResolved({ root: ".", command: "build" });
  await plugin.buildStart.call({ error: (message) => errors.push(message) });
  return errors.join();
};
const before = await build();
writeFileSync("project/tides.ts", "export interface Tides { levelAt(hour: number): number }\\n");
const after = await build();
if (before !== "" || !after.startsWith("Generated files are stale: tides-decorator.ts."))
  throw new Error(\`the plugin does not work: \${before}; \${after}\`);
`,
  );
  node(["plugin.mjs"], folder);
}

function node(args, cwd) {
  execFileSync(process.execPath, args, { cwd, stdio: ["ignore", "inherit", "inherit"] });
}

function npm(args, cwd) {
  return execFileSync("npm", [...args, "--no-audit", "--no-fund", "--loglevel=error"], {
    cwd,
    encoding: "utf8",
    stdio: ["ignore", "pipe", "inherit"],
    shell: process.platform === "win32",
  });
}
