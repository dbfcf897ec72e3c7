import { expect, test } from "vitest";
import { project, type Run, sleeve, sleeveWith } from "../harness.ts";

const SOURCE = "export interface T { a: number }\nexport class w { a = 1; }\n";

/** Checks a project whose config is given, with options. */
function checked(config: string, ...options: readonly string[]): Run {
  return sleeve(project({ "src/a.ts": SOURCE, "sleeve.config.ts": config }), "check", ...options);
}

const PLAIN = 'export default { targets: { "src/a.ts#T": ["src/a.ts#w"] } };';
const CODE = 'const file = "src/a.ts";\nexport default { targets: { [file + "#T"]: [file + "#w"] } };';

test.each([
  ["plain data", PLAIN],
  ["code", CODE],
  ["code that prints", `console.log("noise");\nconsole.error("noise");\n${CODE}`],
  ["code that is asynchronous", `await new Promise((done) => setTimeout(done, 20));\n${CODE}`],
  ["code that leaves a timer", `setInterval(() => {}, 1000);\n${CODE}`],
])("a config with %s is loaded, and prints nothing", (_, config) => {
  const { code, stdout, stderr } = checked(config);
  expect({ code, stderr }).toEqual({ code: 0, stderr: "" });
  expect(stdout).toMatch(/^1 wrapper checked: no findings\.\n$/);
});

test.each([
  ["process.exit(0);", "it ends the process"],
  ["await new Promise(() => {});", "it waits for something that never happens"],
  ["throw new Error('half');", "half"],
  ["throw null;", "null"],
  ["export default { targets: () => {} };", "it exports more than plain data"],
  ["const loop = {}; loop.loop = loop; export default loop;", "Maximum call stack size exceeded"],
  ["while (true) {}", "it uses more than 10 seconds of processor time"],
])("a config with %s ends with one sentence", (config, reason) => {
  const { code, stdout, stderr } = checked(`const now = Date.now();\n${config}\n`);
  expect({ code, stdout }).toEqual({ code: 2, stdout: "" });
  expect(stderr).toBe(
    `sleeve: sleeve.config.ts cannot be loaded: ${reason}. Correct it and run again. [BROKEN_CONFIG]\n`,
  );
});

test.each([["check"], ["survey"], ["draft", "crane"], ["move", "crane"], ["drift"]])(
  "%s refuses to run the code of a config on request",
  (...command) => {
    const files = { "src/a.ts": SOURCE, "sleeve.config.ts": `process.exit(7);\n${CODE}` };
    const refused = /^sleeve: sleeve\.config\.ts contains code, which --no-config-code .*\[CONFIG_CODE\]\n$/;
    const [byOption, byVariable] = [
      sleeve(project(files), ...command, "--no-config-code"),
      sleeveWith({ SLEEVE_NO_CONFIG_CODE: "1" }, project(files), ...command),
    ];
    for (const { code, stderr } of [byOption, byVariable]) {
      expect(code).toBe(2);
      expect(stderr).toMatch(refused);
    }
  },
);

test("plain data is read where code is refused", () => {
  expect(checked(PLAIN, "--no-config-code")).toMatchObject({ code: 0, stderr: "" });
});
