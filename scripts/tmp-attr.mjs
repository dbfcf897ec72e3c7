import { rolldown } from "rolldown";

const exported = process.argv[2];
const bundle = await rolldown({
  input: "entry",
  platform: "browser",
  cwd: "/work/main",
  treeshake: { moduleSideEffects: false },
  plugins: [
    {
      name: "entry",
      resolveId: (id) => (id === "entry" ? "/work/main/entry.ts" : undefined),
      load: (id) =>
        id === "/work/main/entry.ts"
          ? `export ${exported} from "/work/main/packages/sleeve/src/index.ts";`
          : undefined,
    },
  ],
});
const { output } = await bundle.generate({ minify: false });
const mods = output[0].modules;
const { minifySync } = await import("rolldown/utils").catch(() => ({}));
const rows = Object.entries(mods)
  .map(([f, m]) => [f.replace("/work/main/packages/sleeve/src/", ""), m.renderedLength])
  .filter((r) => r[1] > 0)
  .sort((a, b) => b[1] - a[1]);
for (const [f, n] of rows) console.log(String(n).padStart(7), f);
console.log(rows.reduce((a, b) => a + b[1], 0));
