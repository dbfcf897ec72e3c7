import { spawnSync } from "node:child_process";
import { join } from "node:path";
import { paired } from "../paired.mjs";
import { generateProject } from "./project.mjs";

const root = join(import.meta.dirname, "../../..");
const sleeve = join(root, "packages/sleeve-cli/dist/cli.js");
const tsc = join(root, "node_modules/typescript/bin/tsc");

/** @returns {Promise<{ name: string, against: string, ratio: number, low: number, high: number }[]>} */
export async function run({ quick }) {
  const folder = generateProject(2000);
  const turns = quick ? { pairs: 2, warmups: 0 } : { pairs: 7, warmups: 1 };
  const against = "tsc --noEmit on 2,000 files";
  const compile = () => command([tsc, "--noEmit", "-p", folder], [0, 1, 2]);
  return [
    {
      name: "survey.members",
      against,
      ...paired(() => command([sleeve, "survey", folder], [0]), compile, turns),
    },
    { name: "check", against, ...paired(() => command([sleeve, "check", folder], [1]), compile, turns) },
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

function command(args, expected) {
  const { status, stderr } = spawnSync(process.execPath, args, { encoding: "utf8", maxBuffer: 1 << 28 });
  if (!expected.includes(status)) throw new Error(`${args.join(" ")} ended with ${status}: ${stderr}`);
}
