import { mkdirSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync } from "node:zlib";
import { build } from "vite";

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
