import { beforeAll, expect, test } from "vitest";
import type { CorpusPackage } from "./corpus.ts";
import { type Behaviour, beforeIsolation, type Isolated, isolate } from "./isolated-packages.ts";

/**
 * Each consumer compiles and prints the same behind its target, and every misspelt option that was an error still
 * is one.
 */
export function testPackages(part: string, packages: readonly CorpusPackage[]): void {
  let before: ReadonlyMap<string, Behaviour>;
  let after: ReadonlyMap<string, Isolated>;

  beforeAll(async () => {
    before = await beforeIsolation(`${part}-before`, packages);
    after = await isolate(part, packages);
  }, TIMEOUT);

  test.each(packages)("$name is isolated completely, and its consumer behaves as before", (pkg) => {
    const original = before.get(pkg.name);
    const result = after.get(pkg.name);
    expect(original?.errors).toEqual([]);
    expect(result?.failures).toEqual([]);
    expect(result?.importers).toEqual([]);
    expect(result?.errors).toEqual([]);
    expect(result?.prints).toBe(original?.prints);
    const moved = pkg.optionsInSetUp ?? 0;
    const remaining = (original?.rejected ?? []).map((file) => Number(numberOf(file)) - moved);
    expect(result?.rejected.map((file) => Number(numberOf(file)))).toEqual(
      expect.arrayContaining(remaining.filter((index) => index >= 0)),
    );
    expect(result?.members).toEqual(pkg.members);
  });
}

/** The time for drafting, moving and checking all packages, in milliseconds. */
const TIMEOUT = 600_000;

function numberOf(mutant: string): string | undefined {
  return /mutant(\d+)/.exec(mutant)?.[1];
}
