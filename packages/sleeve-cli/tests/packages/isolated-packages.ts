import { spawn } from "node:child_process";
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { basename, join } from "node:path";
import { sleeve } from "../harness.ts";
import type { CorpusPackage } from "./corpus.ts";
import { mutantsOf } from "./mutants.ts";

const FIXTURES = join(import.meta.dirname, "../fixtures/packages");
const TSC = createRequire(import.meta.url)
  .resolve("typescript/package.json")
  .replace(/package\.json$/, "bin/tsc");

const COMPILER_OPTIONS = {
  strict: true,
  noUnusedLocals: true,
  noUnusedParameters: true,
  module: "nodenext",
  target: "es2023",
  lib: ["es2023", "dom", "dom.iterable"],
  types: ["node"],
  skipLibCheck: true,
  esModuleInterop: true,
  resolveJsonModule: true,
  outDir: "out",
  rootDir: "src",
};

const CONFIG = { compilerOptions: COMPILER_OPTIONS, include: ["src"] };

interface Run {
  readonly code: number | null;
  readonly stdout: string;
  /** Standard output and standard error. */
  readonly output: string;
}

function run(cwd: string, ...args: readonly string[]): Promise<Run> {
  return new Promise((resolve) => {
    const env = { ...process.env, NO_COLOR: "1", FORCE_COLOR: "0" };
    const child = spawn(process.execPath, args, { cwd, env, stdio: ["ignore", "pipe", "pipe"] });
    let [stdout, output] = ["", ""];
    child.stdout.on("data", (chunk: Buffer) => (stdout += chunk));
    for (const stream of [child.stdout, child.stderr])
      stream.on("data", (chunk: Buffer) => (output += chunk));
    child.on("close", (code) => resolve({ code, stdout, output }));
  });
}

function consumerOf({ consumer }: CorpusPackage): string {
  return readFileSync(join(FIXTURES, "consumers", `${consumer}.ts`), "utf8");
}

/** Creates a project below the corpus, so that it finds the installed packages. */
function createProject(folder: string, files: Readonly<Record<string, string>>): string {
  const root = join(FIXTURES, "build", folder);
  rmSync(root, { recursive: true, force: true });
  mkdirSync(join(root, "src"), { recursive: true });
  writeFileSync(join(root, "package.json"), '{ "name": "office", "type": "module", "private": true }\n');
  writeFileSync(join(root, "tsconfig.json"), JSON.stringify(CONFIG));
  for (const [file, text] of Object.entries(files)) writeFileSync(join(root, "src", file), text);
  return root;
}

/** Compiles a project, and returns the files with errors. */
async function compile(root: string): Promise<ReadonlyMap<string, string>> {
  const { output } = await run(root, TSC, "-p", root, "--pretty", "false");
  const errors = new Map<string, string>();
  for (const [line, file = ""] of output.matchAll(/^src\/([^(\n]+)\(.*$/gm))
    if (!errors.has(file)) errors.set(file, line);
  return errors;
}

/** What a consumer prints, and which of its mutants the compiler rejects. */
export interface Behaviour {
  readonly prints: string;
  readonly rejected: readonly string[];
  readonly errors: readonly string[];
}

/** Compiles a project, runs some of its files, and returns how each behaves. */
async function behaviours(
  root: string,
  files: readonly { readonly main: string; readonly mutants: readonly string[] }[],
): Promise<readonly Behaviour[]> {
  const errors = await compile(root);
  const found: Behaviour[] = [];
  for (const { main, mutants } of files) {
    const { output } = await run(root, join(root, "out", main.replace(/\.ts$/, ".js")));
    const folder = main.includes("/") ? main.slice(0, main.indexOf("/") + 1) : main.replace(/ts$/, "");
    const own = (file: string) => file.startsWith(folder);
    found.push({
      prints: output,
      rejected: mutants.filter((mutant) => errors.has(mutant)),
      errors: [...errors].flatMap(([file, line]) => (own(file) && !mutants.includes(file) ? [line] : [])),
    });
  }
  return found;
}

/** Adds the mutants of a file, and returns their names. */
function addMutants(root: string, main: string): readonly string[] {
  return mutantsOf(readFileSync(join(root, "src", main), "utf8")).map((mutant, index) => {
    const file = main.replace(/ts$/, `mutant${index}.ts`);
    writeFileSync(join(root, "src", file), mutant);
    return file;
  });
}

/** Compiles and runs consumers before anything is moved, all in one project. */
export async function beforeIsolation(
  folder: string,
  packages: readonly CorpusPackage[],
): Promise<ReadonlyMap<string, Behaviour>> {
  const mains = packages.map(({ consumer }) => `${basename(consumer)}.ts`);
  const texts = packages.map(consumerOf);
  const root = createProject(
    folder,
    Object.fromEntries(mains.map((main, index) => [main, texts[index] ?? ""])),
  );
  const found = await behaviours(
    root,
    mains.map((main) => ({ main, mutants: addMutants(root, main) })),
  );
  rmSync(root, { recursive: true });
  return new Map(packages.map(({ name }, index) => [name, found[index] as Behaviour]));
}

export interface Isolated extends Behaviour {
  readonly members: readonly [number, number, number];
  /** Output of the commands that did not succeed. */
  readonly failures: readonly string[];
  /** Files besides those of the border that import the package. */
  readonly importers: readonly string[];
}

/**
 * Drafts a target for each package, moves its consumer and checks the result, each in a project of its own; then
 * compiles all of them at once, and runs them.
 */
export async function isolate(
  folder: string,
  packages: readonly CorpusPackage[],
): Promise<ReadonlyMap<string, Isolated>> {
  const isolated: (Omit<Isolated, keyof Behaviour> & { main: string; mutants: readonly string[] })[] = [];
  for (const pkg of packages) isolated.push(isolateOne(join(folder, "src", basename(pkg.consumer)), pkg));
  const root = join(FIXTURES, "build", folder);
  writeFileSync(join(root, "tsconfig.json"), JSON.stringify(CONFIG));
  writeFileSync(join(root, "package.json"), '{ "name": "offices", "type": "module", "private": true }\n');
  const found = await behaviours(root, isolated);
  rmSync(root, { recursive: true });
  return new Map(
    packages.map(({ name }, index) => {
      const { main: _, mutants: __, ...rest } = isolated[index] as (typeof isolated)[number];
      return [name, { ...(found[index] as Behaviour), ...rest }];
    }),
  );
}

function isolateOne(folder: string, pkg: CorpusPackage) {
  const root = createProject(folder, { "main.ts": consumerOf(pkg) });
  const failures: string[] = [];
  const succeed = (...args: readonly string[]) => {
    const { code, stdout, stderr } = sleeve(root, ...args);
    if (code !== 0) failures.push(`${args[0]}: ${stdout}${stderr}`);
    return stdout;
  };
  const drafted = succeed("draft", pkg.name, "--write", "--json");
  succeed("move", pkg.name, "--write", "--uncommitted");
  succeed("check");
  const { quality } = JSON.parse(drafted) as {
    quality: { members: { independent: number; dependent: number; reexported: number } };
  };
  const { independent, dependent, reexported } = quality.members;
  const within = (file: string) => `${basename(pkg.consumer)}/src/${file}`;
  return {
    failures,
    importers: importersOf(root, pkg.name),
    members: [independent, dependent, reexported] as const,
    main: within("main.ts"),
    mutants: addMutants(root, "main.ts").map(within),
  };
}

function importersOf(root: string, name: string): readonly string[] {
  const specifier = new RegExp(`["']${name.replace(/[./]/g, "\\$&")}(?:/[^"']*)?["']`);
  return readdirSync(join(root, "src"), { recursive: true, encoding: "utf8" })
    .filter((file) => file.endsWith(".ts") && !/-(?:adapter|outside)\.ts$/.test(file))
    .filter((file) =>
      readFileSync(join(root, "src", file), "utf8")
        .split("\n")
        .some((line) => /\b(?:import|require|from)\b/.test(line) && specifier.test(line)),
    );
}
