/**
 * Packs both packages, installs them in an empty folder outside the repository, and uses them there as a stranger
 * would: imports, types, and the command.
 */
import { execFileSync, spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const root = join(import.meta.dirname, "..");
const empty = mkdtempSync(join(tmpdir(), "sleeve-packaging-"));

try {
  const tarballs = ["packages/sleeve", "packages/sleeve-cli"].map(pack);
  writeFileSync(join(empty, "package.json"), '{ "name": "stranger", "private": true, "type": "module" }');
  npm(["install", "--no-audit", "--no-fund", "--loglevel=error", ...tarballs], empty);
  useLibrary();
  useTypes();
  useCommand();
  console.log("Both packages install in an empty folder, and run there.");
} finally {
  rmSync(empty, { recursive: true, force: true });
}

function pack(folder) {
  const [{ filename, files }] = JSON.parse(
    npm(["pack", "--json", "--pack-destination", empty], join(root, folder)),
  );
  const { exports } = JSON.parse(readFileSync(join(root, folder, "package.json"), "utf8"));
  const packed = new Set(files.map(({ path }) => `./${path}`));
  const wanted = Object.values(exports).flatMap((entry) =>
    typeof entry === "string" ? [entry] : Object.values(entry),
  );
  for (const path of [...wanted, "./LICENSE", "./README.md"]) {
    if (![...packed].some((item) => matches(item, path)))
      throw new Error(`${folder} is packed without ${path}.`);
  }
  const unwanted = files.find(({ path }) => /(^|\/)tests\/|\.tsbuildinfo$/.test(path));
  if (unwanted) throw new Error(`${folder} packs tests or build state: ${unwanted.path}.`);
  return join(empty, filename);
}

/** Whether a path is the one that is named, or of the pattern, in which a star stands for a name. */
function matches(path, wanted) {
  const [before, after] = wanted.split("*");
  return after === undefined ? path === wanted : path.startsWith(before) && path.endsWith(after);
}

function useLibrary() {
  writeFileSync(
    join(empty, "use.mjs"),
    `import { adapter, decorate, timing } from "sleeve";
const samples = [];
const make = adapter({ double: (given, value) => given.times * value }, { name: "doubler" });
const doubler = decorate(make({ times: 2 }), timing({ onSample: (sample) => samples.push(sample.member) }));
if (doubler.double(21) !== 42 || samples.join() !== "double") throw new Error("the library does not work");`,
  );
  node(["use.mjs"]);
}

function useTypes() {
  writeFileSync(
    join(empty, "use.ts"),
    `import { adapter, bridge, cached, decorate, facade, logging, proxy } from "sleeve";
import type { Config } from "sleeve-cli";
interface Target { double(value: number): number }
const make = adapter<Target, { twice(value: number): number }>({ double: "twice" });
export const target: Target = decorate(make({ twice: (value) => value * 2 }), logging({ only: ["double"] }));
export const late: Target = decorate(proxy(() => target), cached({ only: ["double"], ttl: "10m" }));
export const port: Target = bridge<Target>({ late }, { start: "late" }).port;
export const office = facade({ port }, (operation) => ({ go: operation<number>().steps({ twice: ({ port }, { input }) => port.double(input) }) }));
export const answer: Promise<{ readonly twice: number }> = office.go(2);
export const config: Config = { targets: {} };`,
  );
  const options = [
    "--noEmit",
    "--strict",
    "--module",
    "nodenext",
    "--target",
    "es2023",
    "--types",
    "",
    "use.ts",
  ];
  node([join(empty, "node_modules/typescript/bin/tsc"), ...options]);
}

function useCommand() {
  const project = join(empty, "project");
  mkdirSync(project);
  writeFileSync(join(project, "a.js"), 'import { createColors } from "picocolors";\ncreateColors();\n');
  const bin = join(empty, "node_modules/.bin/sleeve");
  const { status, stdout, stderr } = spawnSync(bin, ["survey", project], {
    encoding: "utf8",
    shell: process.platform === "win32",
  });
  if (status !== 0 || !stdout.includes("picocolors"))
    throw new Error(`The command ended with ${status}: ${stdout}${stderr}`);
}

function node(args) {
  execFileSync(process.execPath, args, { cwd: empty, stdio: ["ignore", "inherit", "inherit"] });
}

function npm(args, cwd) {
  return execFileSync("npm", args, {
    cwd,
    encoding: "utf8",
    stdio: ["ignore", "pipe", "inherit"],
    shell: process.platform === "win32",
  });
}
