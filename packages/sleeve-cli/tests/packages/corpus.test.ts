import { expect, test } from "vitest";
import { CORPUS, TESTED } from "./corpus.ts";
import { mutantsOf } from "./mutants.ts";

test("the corpus has 40 packages, and 80 in 100 of their used members get types of their own", () => {
  const sums = [0, 1, 2].map((form) => CORPUS.reduce((sum, { members }) => sum + (members[form] ?? 0), 0));
  const [own = 0, aliased = 0, reexported = 0] = sums;
  expect(CORPUS.length).toBe(40);
  expect([4, 40]).toContain(TESTED.length);
  expect(own / (own + aliased + reexported)).toBeGreaterThan(0.8);
});

test("a mutant misspells one option of a call", () => {
  expect(mutantsOf("lift({ tons: 3, to: { berth: 4 } }, () => ({ a: 1 }));")).toEqual([
    "lift({ tonsMisspelt: 3, to: { berth: 4 } }, () => ({ a: 1 }));",
    "lift({ tons: 3, toMisspelt: { berth: 4 } }, () => ({ a: 1 }));",
  ]);
});
