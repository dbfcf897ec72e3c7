import { spawnSync } from "node:child_process";
import { readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { paired } from "../paired.mjs";
import { peakMemory } from "./memory.mjs";
import { generateProject } from "./project.mjs";

const root = join(import.meta.dirname, "../../..");
const sleeve = join(root, "packages/sleeve-cli/dist/cli.js");
const tsc = join(root, "node_modules/typescript/bin/tsc");
const bareParser = join(import.meta.dirname, "bare-parser.mjs");

/** @returns {Promise<{ name: string, against: string, ratio: number, low: number, high: number }[]>} */
export async function run({ quick }) {
  const files = quick ? 1500 : 5000;
  const folder = generateProject(files);
  const turns = quick ? { pairs: 2, warmups: 0 } : { pairs: 5, warmups: 1 };
  const against = `tsc --noEmit on ${counted(files)}`;
  const compile = () => command([tsc, "--noEmit", "-p", folder], [0, 1, 2]);
  return [
    imports(quick),
    { name: "survey.members", against, ...paired(() => surveyAnew(folder), compile, turns) },
    ...["everywhere", "heavy", "javascript"].map((kind) => membersOf(kind, files, turns)),
    {
      name: "check",
      against,
      ...paired(
        () => command([sleeve, "check", folder], [1]),
        compile,
        quick ? { ...turns, pairs: 1 } : turns,
      ),
    },
    rerun(quick),
    growth(quick),
    await memory("survey", folder, against, quick),
    draft(folder, compile, against, turns),
    await memory("draft", folder, against, quick),
    move(folder, compile, against, turns),
    {
      name: "startup",
      against: "node -e 0",
      ...paired(
        () => command([sleeve, "--help"], [0]),
        () => command(["-e", "0"], [0]),
        { pairs: quick ? 7 : 15, warmups: 1 },
      ),
    },
  ];
}

/** A first survey down to members, of another kind of project. */
function membersOf(kind, files, turns) {
  const folder = generateProject(files, kind);
  const compile = () => command([tsc, "--noEmit", "-p", folder], [0, 1, 2]);
  return {
    name: `survey.members.${kind}`,
    against: `tsc --noEmit on ${counted(files)}`,
    ...paired(() => surveyAnew(folder), compile, turns),
  };
}

/** A draft of the package that one file in ten imports, which is not written. */
function draft(folder, compile, against, turns) {
  const ratios = paired(() => command([sleeve, "draft", "vendor", folder], [0]), compile, turns);
  return { name: "draft", against, ...ratios };
}

/** A move of all imports of the package to its adapter, which is not written. */
function move(folder, compile, against, turns) {
  command([sleeve, "draft", "vendor", folder, "--write"], [0]);
  const ratios = paired(() => command([sleeve, "move", "vendor", folder], [0]), compile, turns);
  return { name: "move", against, ...ratios };
}

/** A first survey, with the cache removed. */
function surveyAnew(folder) {
  rmSync(join(folder, "node_modules/.cache"), { recursive: true, force: true });
  command([sleeve, "survey", folder], [0]);
}

function counted(files) {
  return `${files.toLocaleString("en")} files`;
}

/** A survey with --imports, against only reading and parsing the same files. */
function imports(quick) {
  const files = quick ? 3000 : 10_000;
  const folder = generateProject(files);
  const survey = () => command([sleeve, "survey", "--imports", folder], [0]);
  const parse = () => command([bareParser, join(folder, "src")], [0]);
  return {
    name: "survey.imports",
    against: `the bare parser on ${counted(files)}`,
    ...paired(survey, parse, quick ? { pairs: 2, warmups: 0 } : { pairs: 5, warmups: 1 }),
  };
}

/** A second survey after a change of one function body, in another file each time. */
function rerun(quick) {
  const files = quick ? 3000 : 10_000;
  const folder = generateProject(files);
  surveyAnew(folder);
  let index = Math.floor(files / 2);
  const again = () => {
    const path = join(folder, `src/module${index++}.ts`);
    writeFileSync(path, readFileSync(path, "utf8").replace("let total = 0;", "let total = 1 - 1;"));
    command([sleeve, "survey", folder], [0]);
  };
  return {
    name: "rerun",
    against: `the first survey of ${counted(files)}, before one of them changed`,
    ...paired(again, () => surveyAnew(folder), { pairs: quick ? 1 : 3, warmups: 0 }),
  };
}

/** The time per file in a project ten times as large. */
function growth(quick) {
  const [small, large] = (quick ? [100, 1000] : [1000, 10_000]).map((files) => ({
    files,
    folder: generateProject(files),
  }));
  const { ratio, low, high } = paired(
    () => surveyAnew(large.folder),
    () => surveyAnew(small.folder),
    quick ? { pairs: 1, warmups: 0 } : { pairs: 3, warmups: 0 },
  );
  const item = (times) => (times * small.files) / large.files;
  return {
    name: "growth",
    against: `a file of ${counted(small.files)}, in ${counted(large.files)}`,
    ratio: item(ratio),
    low: item(low),
    high: item(high),
  };
}

/** The largest memory of a command and the processes it starts. */
async function memory(name, folder, against, quick) {
  const args = name === "draft" ? ["draft", "vendor", folder] : [name, folder];
  const ratios = [];
  for (let turn = 0; turn < (quick ? 1 : 3); turn++) {
    rmSync(join(folder, "node_modules/.cache"), { recursive: true, force: true });
    const peak = await peakMemory([sleeve, ...args], [0]);
    ratios.push(peak / (await peakMemory([tsc, "--noEmit", "-p", folder], [0, 1, 2])));
  }
  ratios.sort((left, right) => left - right);
  const ratio = ratios[Math.floor(ratios.length / 2)];
  return {
    name: `memory.${name}`,
    against,
    ratio,
    low: ratios[0],
    high: ratios.at(-1),
  };
}

function command(args, expected) {
  const { status, stderr } = spawnSync(process.execPath, args, { encoding: "utf8", maxBuffer: 1 << 28 });
  if (!expected.includes(status)) throw new Error(`${args.join(" ")} ended with ${status}: ${stderr}`);
}
