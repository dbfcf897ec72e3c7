/**
 * npm run bench -- SUITE [--json] [--quick] [--node 20|22|24]
 * npm run bench -- runtime --chromium [--json] [--quick]
 *
 * With --node, the suite runs on that version of Node.js, whose binary comes from the npm registry. With --chromium, the rows
 * that browsers can run are measured in Chromium.
 *
 * Each row is the median of paired runs: what is measured and what it is measured against take turns in one
 * process, so that a slow moment of the machine falls on both.
 */
import { spawnSync } from "node:child_process";
import { parseArgs } from "node:util";
import { installNode } from "../../scripts/node-binaries.mjs";

const suites = {
  runtime: () => import("./runtime/suite.mjs"),
  conform: () => import("./conform/suite.mjs"),
  analysis: () => import("./analysis/suite.mjs"),
};

const USAGE = `Run: npm run bench -- SUITE [--json] [--quick] [--node VERSION | --chromium], with one of: ${Object.keys(suites).join(", ")}.`;

const { values, positionals } = readArguments();
if (values.help) {
  console.log(USAGE);
  process.exit(0);
}
const [name = ""] = positionals;
if (!Object.hasOwn(suites, name)) fail(name ? `There is no suite "${name}".` : "No suite is named.");

function readArguments() {
  try {
    return parseArgs({
      allowPositionals: true,
      options: {
        json: { type: "boolean" },
        quick: { type: "boolean" },
        node: { type: "string" },
        chromium: { type: "boolean" },
        help: { type: "boolean" },
      },
    });
  } catch (error) {
    return fail(error.message);
  }
}

function fail(problem) {
  console.error(`${problem} ${USAGE}`);
  process.exit(2);
}

if (values.chromium && name !== "runtime") fail("Only the suite runtime has rows for Chromium.");

if (values.node !== undefined && !process.version.startsWith(`v${values.node}.`)) {
  const binary = await installNode(values.node);
  if (!binary) {
    console.error(
      `The registry has no binary of Node.js ${values.node} for this platform. Run the suite without --node.`,
    );
    process.exit(2);
  }
  const args = process.argv
    .slice(1)
    .filter((arg, index, all) => arg !== "--node" && all[index - 1] !== "--node");
  process.exit(spawnSync(binary, args, { stdio: "inherit" }).status ?? 2);
}

const suite = await suites[name]();
const quick = values.quick === true;
const { browser, rows } = values.chromium
  ? await suite.runInChromium({ quick })
  : { browser: undefined, rows: await suite.run({ quick }) };
const result = { suite: name, node: process.version, ...(browser && { browser }), rows };

if (values.json) console.log(JSON.stringify(result, null, 2));
else {
  console.log(
    `${name}, ${browser ?? `Node ${process.version}`}; ratio is the median of paired runs, low and high its 10th and 90th percentile\n`,
  );
  const width = Math.max(...rows.map((row) => row.name.length));
  for (const { name: row, against, ratio, low, high, value } of rows) {
    console.log(
      `${row.padEnd(width)}  ${ratio.toFixed(3).padStart(7)}  (${low.toFixed(3)} to ${high.toFixed(3)})  against ${against}${value === undefined ? "" : ` (${value} bytes)`}`,
    );
  }
}
