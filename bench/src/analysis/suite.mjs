import { spawnSync } from "node:child_process";
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
  const files = quick ? 1000 : 2000;
  const folder = generateProject(files);
  const turns = quick ? { pairs: 2, warmups: 0 } : { pairs: 7, warmups: 1 };
  const against = `tsc --noEmit on ${files.toLocaleString("en")} files`;
  const compile = () => command([tsc, "--noEmit", "-p", folder], [0, 1, 2]);
  return [
    imports(quick),
    {
      name: "survey.members",
      against,
      ...paired(() => command([sleeve, "survey", folder], [0]), compile, turns),
    },
    { name: "check", against, ...paired(() => command([sleeve, "check", folder], [1]), compile, turns) },
    {
      name: "rerun",
      against: "the first survey, no file changed since",
      ...rerun(folder, quick ? { pairs: 1, warmups: 0 } : turns),
    },
    growth(quick),
    await memory(folder, against, quick),
    {
      name: "startup",
      against: "node -e 0",
      ...paired(
        () => command([sleeve, "--help"], [0]),
        () => command(["-e", "0"], [0]),
        { pairs: 15, warmups: 2 },
      ),
    },
  ];
}

/** The survey of imports alone, against nothing but reading and parsing the same files. */
function imports(quick) {
  const files = quick ? 2000 : 10_000;
  const folder = generateProject(files);
  const survey = () => command([sleeve, "survey", "--imports", folder], [0]);
  const parse = () => command([bareParser, join(folder, "src")], [0]);
  return {
    name: "survey.imports",
    against: `the bare parser on ${files.toLocaleString("en")} files`,
    ...paired(survey, parse, quick ? { pairs: 2, warmups: 0 } : { pairs: 5, warmups: 1 }),
  };
}

/** Nothing is kept from one survey to the next yet. */
function rerun(folder, turns) {
  const survey = () => command([sleeve, "survey", folder], [0]);
  return paired(survey, survey, turns);
}

/** The time that a file takes in a project ten times as large. */
function growth(quick) {
  const [small, large] = (quick ? [100, 1000] : [1000, 10_000]).map((files) => ({
    files,
    folder: generateProject(files),
  }));
  const { ratio, low, high } = paired(
    () => command([sleeve, "survey", large.folder], [0]),
    () => command([sleeve, "survey", small.folder], [0]),
    quick ? { pairs: 1, warmups: 0 } : { pairs: 3, warmups: 0 },
  );
  const each = (times) => (times * small.files) / large.files;
  return {
    name: "growth",
    against: `a file of ${small.files.toLocaleString("en")} files, in ${large.files.toLocaleString("en")}`,
    ratio: each(ratio),
    low: each(low),
    high: each(high),
  };
}

async function memory(folder, against, quick) {
  const ratios = [];
  for (let turn = 0; turn < (quick ? 1 : 3); turn++) {
    const survey = await peakMemory([sleeve, "survey", folder], [0]);
    ratios.push(survey / (await peakMemory([tsc, "--noEmit", "-p", folder], [0, 1, 2])));
  }
  ratios.sort((left, right) => left - right);
  const ratio = ratios[Math.floor(ratios.length / 2)];
  return {
    name: "memory.survey",
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
