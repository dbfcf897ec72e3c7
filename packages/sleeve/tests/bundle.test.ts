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
