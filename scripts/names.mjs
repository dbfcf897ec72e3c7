/**
 * Finds bindings whose names say nothing, such as `found` or `given`, in the sources of the packages. A name says what the value
 * is: `candidate`, `declaredType`, `memberNames`. `npm run lint` fails if there are more than the limit; with --list, prints all.
 */
import { spawnSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { parseSync, Visitor } from "oxc-parser";

const root = join(import.meta.dirname, "..");

const VAGUE = new Set(
  "all each first found given held kept known left made one only other own passed rest seen sole used wanted whole written".split(
    " ",
  ),
);

/** Share of all bindings that may be vague, such as `left` beside `right`. */
const MAX_SHARE = 0.015;

const { stdout } = spawnSync("git", ["ls-files", "-co", "--exclude-standard", "packages/*/src/**/*.ts"], {
  cwd: root,
  encoding: "utf8",
});
let count = 0;
const vague = [];
for (const file of new Set(stdout.trim().split("\n"))) {
  const text = readFileSync(join(root, file), "utf8");
  for (const { name, start } of bindingsIn(file, text)) {
    count += 1;
    if (VAGUE.has(name)) vague.push(`${file}:${text.slice(0, start).split("\n").length} ${name}`);
  }
}
const share = vague.length / count;
const summary = `Names: ${vague.length} of ${count} bindings are vague (${(100 * share).toFixed(2)} %).`;
if (process.argv.includes("--list")) console.log(vague.join("\n"));
if (share > MAX_SHARE) {
  console.error(
    `${summary} At most ${100 * MAX_SHARE} % may be. Run node scripts/names.mjs --list, and rename some.`,
  );
  process.exitCode = 1;
} else console.log(summary);

/** Returns the names that variables, parameters and catch clauses bind. */
function bindingsIn(file, text) {
  const bindings = [];
  const bind = (pattern) => {
    switch (pattern?.type) {
      case "Identifier":
        bindings.push(pattern);
        break;
      case "RestElement":
        bind(pattern.argument);
        break;
      case "AssignmentPattern":
        bind(pattern.left);
        break;
      case "ArrayPattern":
        pattern.elements.forEach(bind);
        break;
      case "ObjectPattern":
        for (const property of pattern.properties) bind(property.value ?? property);
        break;
    }
  };
  const inParameters = ({ params }) => params.forEach(bind);
  new Visitor({
    VariableDeclarator: ({ id }) => bind(id),
    FunctionDeclaration: inParameters,
    FunctionExpression: inParameters,
    ArrowFunctionExpression: inParameters,
    CatchClause: ({ param }) => bind(param),
  }).visit(parseSync(file, text).program);
  return bindings;
}
