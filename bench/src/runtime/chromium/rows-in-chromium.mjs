import { createServer } from "node:http";
import { join } from "node:path";
import { chromium } from "playwright-core";
import { build } from "vite";
import { browserPath } from "../../../../scripts/browser.mjs";
import { bundleOf } from "../bundle.mjs";

/** Isolated pages have clocks of 5 µs rather than 100 µs. */
const HEADERS = {
  "cross-origin-opener-policy": "same-origin",
  "cross-origin-embedder-policy": "require-corp",
};

/**
 * Measures the rows in Chromium, each in a page of its own, as programs have. Rows about memory, and the start of a process,
 * are left out.
 *
 * @returns {Promise<{ browser: string, rows: object[] }>}
 */
export async function rowsInChromium({ quick }) {
  const executablePath = browserPath();
  if (!executablePath) throw new Error("Chromium was not found. Install it, or set CHROMIUM_PATH.");
  const pages = await pageSource();
  const { code: library } = await bundleOf("{ decorate }");
  const server = createServer((request, response) => {
    const [type, body] =
      request.url === "/page.js" ? ["text/javascript", pages] : ["text/html", "<!doctype html>"];
    response.writeHead(200, { ...HEADERS, "content-type": type }).end(body);
  });
  await new Promise((resolve) => server.listen(0, "127.0.0.1", resolve));
  const browser = await chromium.launch({ executablePath, args: ["--no-sandbox"] });
  try {
    const address = `http://127.0.0.1:${server.address().port}/`;
    const inPage = async (run, argument) => {
      const page = await browser.newPage();
      await page.goto(address);
      const result = await page.evaluate(run, argument);
      await page.close();
      return result;
    };
    const turns = { ...(quick ? { pairs: 15, warmups: 8 } : { pairs: 41, warmups: 12 }), least: 4 };
    const rows = [];
    for (const { name, against } of await inPage(async () => (await import("/page.js")).names()))
      rows.push({
        name,
        against,
        ...(await inPage(async (row) => (await import("/page.js")).measure(row.name, row.turns), {
          name,
          turns,
        })),
      });
    rows.push({
      name: "start.chromium",
      against: "the same number of bytes of comment",
      ...(await inPage(async (start) => (await import("/page.js")).start(start.library, start.turns), {
        library,
        turns,
      })),
    });
    return { browser: `Chromium ${browser.version()}`, rows };
  } finally {
    await browser.close();
    server.close();
  }
}

/** The rows and the library, as a bundler makes them for a browser. */
async function pageSource() {
  const entry = join(import.meta.dirname, "page.mjs");
  const { output } = await build({
    root: import.meta.dirname,
    configFile: false,
    logLevel: "silent",
    resolve: { alias: { "node:async_hooks": join(import.meta.dirname, "no-async-hooks.mjs") } },
    build: {
      write: false,
      minify: false,
      rolldownOptions: { input: entry, preserveEntrySignatures: "strict" },
    },
  });
  return output.find((chunk) => chunk.isEntry).code;
}
