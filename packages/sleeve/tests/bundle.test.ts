import { createContext, runInContext } from "node:vm";
import { rolldown } from "rolldown";
import * as library from "sleeve";
import { expect, test } from "vitest";

/** Code that only the forwarding engine contains: call-site templates, and open wrappers. */
const ENGINE = [/static calls\s*=/, /new Proxy\(/];

/** Returns a minified, tree-shaken bundle of some exports of the library. */
async function bundled(exported: string, platform: "node" | "browser" = "node"): Promise<string> {
  const bundle = await rolldown({
    input: "entry",
    platform,
    plugins: [
      {
        name: "entry",
        resolveId: (id) => (id === "entry" ? id : undefined),
        load: (id) => (id === "entry" ? `export ${exported} from "sleeve";` : undefined),
      },
    ],
  });
  const { output } = await bundle.generate({ minify: true });
  await bundle.close();
  return output[0].code;
}

test("importing only `between` excludes the engine, and importing `decorate` includes it", async () => {
  const [between, decorate] = await Promise.all([bundled("{ between }"), bundled("{ decorate }")]);
  expect(ENGINE.map((pattern) => pattern.test(between))).toEqual([false, false]);
  expect(ENGINE.map((pattern) => pattern.test(decorate))).toEqual([true, true]);
  expect(between.length).toBeLessThan(2000);
});

/** Text that only the open engine contains. */
const OPEN_ENGINE = "is sealed by an access check and cannot be extended";

test("only what needs open forwarding brings it into a bundle", async () => {
  const contents = await Promise.all(
    [
      "{ adapter }",
      "{ layer }",
      "{ decorate }",
      "{ decorate, logging, timing, guard, cached }",
      "{ open }",
      "{ access }",
      "{ proxy }",
    ].map(
      async (exported) => [exported, (await bundled(exported, "browser")).includes(OPEN_ENGINE)] as const,
    ),
  );
  expect(contents.filter(([, contains]) => contains).map(([exported]) => exported)).toEqual([
    "{ open }",
    "{ access }",
    "{ proxy }",
  ]);
});

test.each([
  ["{ layer }", 10_500],
  ["{ adapter }", 16_000],
  ["{ decorate }", 57_000],
  ["{ decorate, logging, timing }", 78_000],
  ["*", 160_000],
])("a bundle of %s for browsers is smaller than %i bytes", async (exported, size) => {
  expect((await bundled(exported, "browser")).length).toBeLessThan(size);
});

test("a bundle reports a subject that needs open forwarding as the library does", async () => {
  const code = (await bundled("{ decorate, open }", "browser")).replace(
    /export\s*\{([^}]*)\};?\s*$/,
    (_, names: string) => {
      const fields = names.split(",").map((name) => name.trim().split(" as ").reverse().join(": "));
      return `globalThis.bundle = { ${fields.join(", ")} };`;
    },
  );
  const context = createContext({ console });
  runInContext(code, context);
  const tried = (decorate: string) =>
    runInContext(
      `try { [${decorate}, ""] } catch (error) { ["", error.code + " " + error.message] }`,
      context,
    ) as unknown[];
  const [, problem] = tried("bundle.decorate([1])");
  expect(() => library.decorate([1])).toThrow(String(problem).replace("NEEDS_OPEN ", ""));
  expect(tried("bundle.decorate([1], bundle.open())[0]")).toEqual([1, ""]);
});

test("each export alone is smaller than the library", async () => {
  const names = Object.keys(library);
  expect(names.length).toBeGreaterThan(30);
  const all = (await bundled("*")).length;
  const alone = await Promise.all(
    names.map(async (name) => [name, (await bundled(`{ ${name} }`)).length] as const),
  );
  expect(alone.filter(([, length]) => length >= all)).toEqual([]);
});

test("a bundle for browsers has fewer call-site templates", async () => {
  const [node, browser] = await Promise.all([bundled("{ decorate }"), bundled("{ decorate }", "browser")]);
  expect(browser.length).toBeLessThan(node.length * 0.7);
});
