import { join } from "node:path";
import { expect, test } from "vitest";
import { startVitest } from "vitest/node";

interface Failure {
  readonly name: string;
  readonly message: string;
}

/** Runs the contract on the faulty tables as Vitest tests, and returns the failures. */
async function failures(): Promise<{ readonly failed: readonly Failure[]; readonly passed: number }> {
  const vitest = await startVitest("test", [], {
    root: join(import.meta.dirname, "fixtures"),
    config: false,
    include: ["*.spec.ts"],
    watch: false,
    reporters: [{}],
  });
  const tests = vitest.state.getTestModules().flatMap((module) => [...module.children.allTests()]);
  const failed = tests
    .filter((test) => test.result().state === "failed")
    .map((test) => ({ name: test.fullName, message: test.result().errors?.[0]?.message ?? "" }));
  await vitest.close();
  return { failed, passed: tests.length - failed.length };
}

test("under Vitest, each faulty table fails exactly its tests, with the reason", async () => {
  const { failed, passed } = await failures();
  const messageOf = (name: string) =>
    failed.find((failure) => failure.name === `TideTable > ${name}`)?.message;

  expect(messageOf("one that drops a member > has every member of its surface")).toBe(
    [
      "missing: tidesOn",
      "  expected a method tidesOn",
      "  found    no member tidesOn; an object has port, heightAt, close",
      "  remedy   Add tidesOn to the wrapper.",
    ].join("\n"),
  );
  expect(messageOf("one that swallows errors > refuses an invalid date")).toContain(
    "expected the call to fail with TidesUnavailable\n  found    the result NaN",
  );
  expect(messageOf("one that answers in feet > has 4.53 m at the morning's high water")).toContain(
    "that is 4.53 metres in feet, so a conversion is missing",
  );
  expect(
    messageOf("one that answers in feet > the height stays between the day's lowest and highest water"),
  ).toMatch(/found {4}broken by .*Z"\): it returned false/);
  expect([failed.length, passed]).toEqual([10, 20]);
});
