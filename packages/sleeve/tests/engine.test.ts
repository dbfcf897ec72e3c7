import { readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";
import { forwardingSource } from "../../../scripts/write-forwarding.mjs";

const src = join(import.meta.dirname, "../src");

test("the generated places to forward from are what their script writes", () => {
  expect(readFileSync(join(src, "forward/forwarding.generated.ts"), "utf8")).toBe(forwardingSource());
});
