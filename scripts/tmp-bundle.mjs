import { writeFileSync } from "node:fs";
import { brotliCompressSync, constants } from "node:zlib";
import { rolldown } from "rolldown";

const sets = {
  layer: "{ layer }",
  adapter: "{ adapter }",
  decorate: "{ decorate }",
  "decorate+logging+timing": "{ decorate, logging, timing }",
  "decorate+access": "{decorate, access}",
  all: "*",
};
for (const [name, exported] of Object.entries(sets)) {
  const bundle = await rolldown({
    input: "entry",
    platform: "browser",
    cwd: "/work/main",
    plugins: [
      {
        name: "entry",
        resolveId: (id) => (id === "entry" ? "/work/main/entry.js" : undefined),
        load: (id) => (id === "/work/main/entry.js" ? `export ${exported} from "sleeve";` : undefined),
      },
    ],
  });
  const { output } = await bundle.generate({ minify: true });
  await bundle.close();
  const code = output[0].code;
  writeFileSync(`/tmp/b.${name}.js`, code);
  console.log(
    name.padEnd(26),
    (code.length / 1000).toFixed(1).padStart(7),
    (brotliCompressSync(code, { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }).length / 1000)
      .toFixed(1)
      .padStart(6),
  );
}
