import { beforeAll, expect, test } from "vitest";
import type { CorpusPackage } from "./corpus.ts";
import { type Behaviour, beforeIsolation, isolated } from "./isolated-packages.ts";

/**
 * Each consumer compiles and prints the same behind its target, and every misspelt option that was an error still
 * is one.
 */
export function testPackages(part: string, packages: readonly CorpusPackage[]): void {
  let before: ReadonlyMap<string, Behaviour>;

  beforeAll(async () => {
    before = await beforeIsolation(part, packages);
  });

  test.each(packages)("$name is isolated completely, and its consumer behaves as before", async (pkg) => {
    const original = before.get(pkg.name);
    const result = await isolated(pkg);
    expect(original?.errors).toEqual([]);
    expect(result.failures).toEqual([]);
    expect(result.importers).toEqual([]);
    expect(result.errors).toEqual([]);
    expect(result.prints).toBe(original?.prints);
    expect(result.rejected.map(numberOf)).toEqual(
      expect.arrayContaining(original?.rejected.map(numberOf) ?? []),
    );
    expect(result.members).toEqual(pkg.members);
  });
}

function numberOf(mutant: string): string | undefined {
  return /mutant(\d+)/.exec(mutant)?.[1];
}
