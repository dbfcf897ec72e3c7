import { mkdirSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Script } from "node:vm";
import { brotliCompressSync } from "node:zlib";
import { build } from "vite";

/** The bundles that are measured, with the wanted numbers of bytes. */
const BUNDLES = [
  { name: "adapter", exported: "{ adapter }", raw: 12_000, compressed: 4_000 },
  { name: "decorate", exported: "{ decorate }", raw: 35_000, compressed: 9_000 },
  { name: "watched", exported: "{ decorate, logging, timing }", raw: 45_000, compressed: 12_000 },
  { name: "all", exported: "*", raw: 100_000, compressed: 28_000 },
];
/** The wanted time to parse and run a bundle, in milliseconds. */
const PARSE_BUDGET = 2;

/** Returns rows with the sizes of bundles for browsers, as they are and compressed, and the time to parse and run them. */
export async function bundleRows() {
  const rows = [];
  const add = (name, against, value, budget) => {
    const ratio = value / budget;
    rows.push({ name, against, ratio, low: ratio, high: ratio, value });
  };
  for (const { name, exported, raw, compressed } of BUNDLES) {
    const bundle = await bundleOf(exported);
    add(`bundle.${name}.raw`, `${raw} bytes`, bundle.code.length, raw);
    add(`bundle.${name}`, `${compressed} bytes, brotli`, bundle.compressed, compressed);
    const { ratio, low, high } = timeToRun(bundle.code);
    rows.push({
      name: `bundle.${name}.run`,
      against: `${PARSE_BUDGET} ms to parse and run it`,
      ratio,
      low,
      high,
    });
  }
  return rows;
}

/** Parses and runs a bundle many times, each time as a text that the engine has not seen. */
function timeToRun(code) {
  const body = code.replace(/export\s*\{[^}]*\};?\s*$/, "");
  const times = Array.from({ length: 21 }, (_, index) => {
    const begin = performance.now();
    new Script(`"use strict"; {${body}\n} // ${index}`).runInThisContext();
    return (performance.now() - begin) / PARSE_BUDGET;
  }).sort((one, other) => one - other);
  return { ratio: times[10], low: times[2], high: times[18] };
}

/** Bundles some exports for browsers. Returns the minified code, and its size compressed with Brotli. */
export async function bundleOf(exported) {
  const folder = join(import.meta.dirname, "../../.bundle");
  mkdirSync(folder, { recursive: true });
  try {
    const entry = join(folder, "entry.js");
    writeFileSync(entry, `export ${exported} from "sleeve";\n`);
    const result = await build({
      root: folder,
      configFile: false,
      logLevel: "silent",
      build: {
        write: false,
        minify: true,
        lib: { entry, formats: ["es"] },
        rolldownOptions: { output: { minify: true } },
      },
    });
    const { output } = Array.isArray(result) ? result[0] : result;
    const code = output.map((chunk) => chunk.code ?? "").join("");
    return { code, compressed: brotliCompressSync(code).length };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
