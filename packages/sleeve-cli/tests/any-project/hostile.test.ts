import { spawn, spawnSync } from "node:child_process";
import { once } from "node:events";
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { setTimeout as pause } from "node:timers/promises";
import { create } from "tar";
import { expect, onTestFinished, test } from "vitest";
import { CLI, installed, project, sampled, sleeve } from "../harness.ts";

/** Texts that a terminal, an editor or a browser acts on. */
const TEXTS: readonly string[] = [
  "\u001b[31mred",
  "\u001b]0;title\u0007",
  "\u009b2J",
  "\u0007bell",
  "\r overwritten",
  "\u202egnp.exe",
  "\u2066isolated",
  "<img src=x onerror=alert(1)>",
  "`code` | [label](x)",
];

/** Where a project can put them, and the files that do. */
const PLACES: Readonly<Record<string, (text: string, index: number) => Readonly<Record<string, string>>>> = {
  "a file name": (text, index) => ({
    [`src/${text.replaceAll("/", "")}${index}.ts`]: 'import { lift } from "crane";\nlift();\n',
  }),
  "an import": (text, index) => ({
    [`src/import${index}.ts`]: `import ${JSON.stringify(`${text}${index}`)};\n`,
  }),
  "a version": (text, index) => ({
    [`node_modules/version${index}/package.json`]: JSON.stringify({ name: `version${index}`, version: text }),
    [`src/version${index}.ts`]: `import "version${index}";\n`,
  }),
  "a requested version": (text, index) => ({
    [`node_modules/wanted${index}/package.json`]: JSON.stringify({
      name: `wanted${index}`,
      version: "1.0.0",
    }),
    [`src/wanted${index}/package.json`]: JSON.stringify({ dependencies: { [`wanted${index}`]: text } }),
    [`src/wanted${index}/main.ts`]: `import "wanted${index}";\n`,
  }),
  "a member": (text, index) => ({
    [`src/member${index}.ts`]: `import { strange } from "crane";\nstrange[${JSON.stringify(text)}]();\n`,
  }),
  "a line of code": (text, index) => ({
    [`src/line${index}.ts`]: `import { lift } from "crane"; // ${text.replace(/[\r\n]/g, "")}\nlift();\n`,
  }),
  "a syntax error": (text, index) => ({
    [`src/error${index}.ts`]: `const ${text.replace(/[\r\n]/g, "")} = ;\n`,
  }),
};

const COMMANDS: readonly (readonly string[])[] = [
  ["survey"],
  ["survey", "--imports"],
  ["survey", "--json"],
  ["survey", "--mermaid"],
  ["survey", "--package", "crane"],
  ["check"],
  ["check", "--verbose"],
  ["check", "--json"],
  ["check", "--sarif"],
  ["check", "--junit"],
  ["check", "--page"],
  ["draft", "crane"],
  ["draft", "crane", "--json"],
  ["move", "crane"],
  ["drift", "--record"],
  ["drift"],
  ["drift", "--json"],
  ["exports", "--record"],
  ["exports", "--against", "older"],
  ["exports", "--against", "older", "--json"],
];

/** A package of ours with declarations, names and versions that are as hostile. */
function ownExports(folder: string, text: string): Readonly<Record<string, string>> {
  const literal = JSON.stringify(text);
  return {
    [`${folder}package.json`]: JSON.stringify({
      name: text,
      version: text,
      exports: { [`./${text}`]: "./own.d.ts" },
    }),
    [`${folder}own.d.ts`]: `export {};\ninterface Hidden { ${literal}: ${literal} }\nexport declare function own(hidden: Hidden): ${literal};\n`,
  };
}

const ACTED_ON = /(?![\t\n])[\p{Cc}\p{Bidi_Control}]/u;

test("no text of a project reaches a terminal, a page or a diagram as it is", () => {
  const files = Object.values(PLACES).flatMap((place) => TEXTS.map((text, index) => place(text, index)));
  expect(files.length * COMMANDS.length).toBe(1260);
  const members = TEXTS.map((text) => `${JSON.stringify(text)}(): void;`).join(" ");
  const root = project({
    ...installed(
      "crane",
      `export declare function lift(): number;\nexport declare const strange: { ${members} };`,
    ),
    ...Object.assign({}, ...files),
    "sleeve.config.ts": 'export default { borders: { crane: ["src/adapter.ts"] } };\n',
    ...ownExports("", TEXTS.join("")),
    ...ownExports("older/", `older${TEXTS.join("")}`),
  });
  const printed: string[] = [];
  for (const args of COMMANDS) {
    const { stdout, stderr, code } = sleeve(root, ...args);
    expect([0, 1, 2]).toContain(code);
    expect({ args, acted: ACTED_ON.exec(stdout + stderr)?.[0] }).toEqual({ args, acted: undefined });
    if (args.includes("--page") || args.includes("--mermaid")) expect(stdout).not.toContain("<img");
    if (args.includes("--json") && code !== 2) expect(() => JSON.parse(stdout)).not.toThrow();
    for (const line of stderr.trimEnd().split("\n")) expect(line).toMatch(/^$|^sleeve: .*\[[A-Z_]+\]$/);
    printed.push(stdout, stderr);
  }
  // They are printed, and can be read.
  const all = printed.join("");
  for (const shown of [
    "\\u001b[31mred",
    "\\u009b2J",
    "\\u202egnp",
    "\\r overwritten",
    "&#60;img src=x",
    "#60;img",
  ])
    expect(all).toContain(shown);
});

/** Code that is nested deeply, by what is nested. */
const NESTED: Readonly<Record<string, (depth: number) => string>> = {
  brackets: (depth) => `const a = ${"[".repeat(depth)}${"]".repeat(depth)};`,
  parentheses: (depth) => `const a = ${"(".repeat(depth)}1${")".repeat(depth)};`,
  blocks: (depth) => `${"{".repeat(depth)}${"}".repeat(depth)}`,
  calls: (depth) => `${"f(".repeat(depth)}${")".repeat(depth)};`,
  "unary operators": (depth) => `const a = ${"!".repeat(depth)}1;`,
  sums: (depth) => `const a = 1${"+1".repeat(depth)};`,
  powers: (depth) => `const a = 1${"**1".repeat(depth)};`,
  conditions: (depth) => `const a = ${"1?1:".repeat(depth)}1;`,
  "arrow functions": (depth) => `const a = ${"b=>".repeat(depth)}1;`,
  "else branches": (depth) => `if(a);${"else if(a);".repeat(depth)}`,
  loops: (depth) => `${"for(;;)".repeat(depth)};`,
  members: (depth) => `a${".b".repeat(depth)};`,
  templates: (depth) => `const a = ${"`$" + "{"}${("`$" + "{").repeat(depth)}1${"}`".repeat(depth + 1)};`,
  assignments: (depth) => `${"a=".repeat(depth)}1;`,
  classes: (depth) => `const a = ${"class { a = ".repeat(depth)}1${"}".repeat(depth)};`,
  "type arguments": (depth) => `type A = ${"B<".repeat(depth)}1${">".repeat(depth)};`,
  "array types": (depth) => `type A = 1${"[]".repeat(depth)};`,
  "conditional types": (depth) => `type A = ${"1 extends 1 ? 1 : ".repeat(depth)}1;`,
  "function types": (depth) => `type A = ${"()=>".repeat(depth)}1;`,
  objects: (depth) => `const a = ${"{ a: ".repeat(depth)}1${"}".repeat(depth)};`,
};

test.each([[["--imports", "--json"]], [["--json"]]] as const)(
  "code that is nested too deeply is reported, and the rest is surveyed: survey %s",
  (options) => {
    const depth = 20_000;
    const forms = Object.entries(NESTED);
    expect(forms).toHaveLength(20);
    const files = sampled(forms).map(([name, code], index) => [
      `src/deep${index}.ts`,
      `// ${name}\nimport { lift } from "crane";\n${code(depth)}\nlift();\n`,
    ]);
    const root = project({
      ...installed("crane", "export declare function lift(): number;"),
      ...Object.fromEntries(files),
      "src/main.ts": 'import { lift } from "crane";\nlift();\n',
    });
    const { code, stdout, stderr } = sleeve(root, "survey", ...options);
    expect(code).toBe(/\[SYNTAX_ERROR\]/.test(stderr) ? 2 : 0);
    expect(stdout).toContain("src/main.ts");
    // The compiler reads some of the forms.
    for (const line of stderr.split("\n").filter((text) => text !== ""))
      expect(line).toMatch(
        /^sleeve: src\/deep\d+\.ts (is nested too deeply to be read, and is left out\. .*\[UNREADABLE\]|:?\S* ?does not parse: .*\[SYNTAX_ERROR\])$|^sleeve: src\/deep\d+\.ts:\S+ does not parse: .*\[SYNTAX_ERROR\]$/,
      );
  },
);

test.each(["{", "[]", "", "null", '"text"', "{ 'name': 1 }", "\u0000"])(
  "the manifest %j is reported",
  (text) => {
    const root = project({
      ...installed("crane", "export declare function lift(): number;"),
      "package.json": text,
      "src/main.ts": 'import { lift } from "crane";\nlift();\n',
    });
    const { code, stdout, stderr } = sleeve(root, "survey");
    expect(code).toBe(2);
    expect(stdout).toContain("crane");
    expect(stderr).toBe(
      "sleeve: package.json is not a JSON object. Correct it, or install the package again, and run again. [BROKEN_MANIFEST]\n",
    );
    writeFileSync(join(root, "package.json"), "{}");
    writeFileSync(join(root, "node_modules/crane/package.json"), text);
    expect(sleeve(root, "survey").stderr).toContain("node_modules/crane/package.json is not a JSON object.");
  },
);

/** A folder outside the project. */
function elsewhere(): string {
  const folder = mkdtempSync(join(tmpdir(), "sleeve-outside-"));
  onTestFinished(() => rmSync(folder, { recursive: true, force: true }));
  return folder;
}

const CRANE = {
  ...installed("crane", "export declare function lift(): number;"),
  "src/main.ts": 'import { lift } from "crane";\nlift();\n',
};

test.each([
  ["a path upwards", () => "../outside"],
  ["a path upwards within", () => "src/../../outside"],
  ["an absolute path", (folder: string) => folder],
  ["a link", () => "src/link"],
  ["a folder in a link", () => "src/link/new"],
])("--into does not leave the project: %s", (_, into) => {
  const root = project(CRANE);
  const folder = elsewhere();
  symlinkSync(folder, join(root, "src/link"));
  const { code, stderr } = sleeve(root, "draft", "crane", "--write", "--into", into(folder));
  expect(code).toBe(2);
  expect(stderr).toMatch(/^sleeve: --into .* is outside the project's folder\. .*\[BAD_OPTION\]\n$/);
  expect(readdirSync(folder)).toEqual([]);
  expect(existsSync(join(root, ".sleeve"))).toBe(false);
});

test.each([
  [
    "a list of files to write outside",
    { files: [{ file: "../stolen", before: null, after: "x", mode: 0o644 }] },
  ],
  ["a list that is none", { files: [7] }],
  ["no list", []],
])("an interrupted run that the project made up writes nothing: %s", (_, manifest) => {
  const root = project({
    ...CRANE,
    ".sleeve/run/0": "stolen",
    ".sleeve/run/manifest.json": JSON.stringify(manifest),
  });
  const { code, stderr } = sleeve(root, "draft", "crane", "--write");
  expect(code).toBe(2);
  expect(stderr).toMatch(/\[INTERRUPTED\]\n$/);
  expect(existsSync(join(root, "../stolen"))).toBe(false);
  expect(readdirSync(join(root, "src"))).toEqual(["main.ts"]);
});

test("a state folder or a source that is a link out of the project is not written", () => {
  const folder = elsewhere();
  const root = project(CRANE);
  symlinkSync(folder, join(root, ".sleeve"));
  expect(sleeve(root, "draft", "crane", "--write")).toMatchObject({ code: 2, stdout: "" });
  rmSync(join(root, ".sleeve"));
  const text = 'import { lift } from "crane";\nlift();\n';
  writeFileSync(join(folder, "linked.ts"), text);
  symlinkSync(join(folder, "linked.ts"), join(root, "src/linked.ts"));
  const { code, stderr } = sleeve(root, "draft", "crane", "--write");
  expect({ code, text: readFileSync(join(folder, "linked.ts"), "utf8") }).toEqual({ code: 2, text });
  expect(stderr).toMatch(/leads outside the project. Nothing was written. \[NOT_WRITABLE\]\n$/);
});

test("files of an archive that lead out of its package are ignored", async () => {
  const root = project({
    ...CRANE,
    "made/package/package.json": '{ "name": "crane", "version": "2.0.0", "types": "index.d.ts" }',
  });
  const archive = join(root, "crane.tgz");
  mkdirSync(join(root, "made/other"), { recursive: true });
  writeFileSync(join(root, "made/other/evil.d.ts"), "export {};");
  await create(
    { file: archive, cwd: join(root, "made/package"), gzip: true, preservePaths: true, prefix: "package" },
    ["package.json", "../other/evil.d.ts"],
  );
  expect(sleeve(root, "drift", "--record").code).toBe(0);
  const { code, stdout } = sleeve(root, "drift", "--against", archive);
  expect(code).toBe(1);
  expect(stdout).toContain("entry point  crane");
});

test.each(["SIGTERM", "SIGINT", "SIGHUP", "SIGKILL"] as const)(
  "after %s no process is left",
  async (signal) => {
    const files = Array.from({ length: 60 }, (_, index) => [
      `src/file${index}.ts`,
      `import { lift } from "crane";\nexport const total${index} = lift();\n`,
    ]);
    const root = project({ ...CRANE, ...Object.fromEntries(files) });
    for (const delay of [50, 250, 500]) {
      const child = spawn(process.execPath, [CLI, "draft", "crane", "--write"], {
        cwd: root,
        stdio: "ignore",
      });
      await pause(delay);
      child.kill(signal);
      if (child.exitCode === null && child.signalCode === null) await once(child, "close");
      let left = processesIn(root);
      for (let attempt = 0; left.length > 0 && attempt < 100; attempt++) {
        await pause(50);
        left = processesIn(root);
      }
      expect(left).toEqual([]);
    }
    // The next run completes or repeats what the last one started.
    expect(sleeve(root, "draft", "crane", "--write").code).toBe(0);
    expect(sleeve(root, "move", "crane", "--write", "--uncommitted").code).toBe(0);
  },
);

/** Returns the processes that run in a folder, on systems that list them as files. */
function processesIn(folder: string): readonly string[] {
  if (!existsSync("/proc/self/cwd"))
    return spawnSync("pgrep", ["-f", folder], { encoding: "utf8" }).stdout.split("\n").filter(Boolean);
  return readdirSync("/proc").filter((name) => {
    try {
      return /^\d+$/.test(name) && readlinkSync(`/proc/${name}/cwd`).startsWith(folder);
    } catch {
      return false;
    }
  });
}
