/** With the test runner of Node.js: each check is a test. Run `node --test node-test.mjs`. */
import assert from "node:assert/strict";
import { suite, test } from "node:test";
import { checksOf, findingText } from "sleeve/conform";
import { depths, implementations } from "./depths.mjs";

for (const [name, implementation] of Object.entries(implementations)) {
  suite(`${depths.name}: ${name}`, () => {
    for (const check of checksOf(depths, implementation)) {
      test(check.name, async () => {
        const { findings } = await check.run();
        assert.equal(findings.map(findingText).join("\n"), "");
      });
    }
  });
}
