/** Creates docs/screenshots from the output of the commands and from the page, on the demo data. */
import { spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { chromium } from "playwright-core";
import { build, preview } from "vite";
import { copyOfBefore } from "../examples/harbour/demo/copy.mjs";
import { writeResults } from "../examples/harbour/demo/results.mjs";
import { browserPath } from "./browser.mjs";

const root = join(import.meta.dirname, "..");
const folder = join(root, "docs/screenshots");
const harbour = join(root, "examples/harbour");
const sleeve = join(root, "packages/sleeve-cli/dist/cli.js");

const COLOUR = new RegExp(`${String.fromCharCode(27)}\\[(\\d+)m`, "g");
const CLASSES = { 1: "b", 2: "d", 31: "r", 32: "g", 33: "y", 36: "c" };

mkdirSync(folder, { recursive: true });
const browser = await chromium.launch({ executablePath: browserPath(), args: ["--no-sandbox"] });
const tab = await browser.newPage({ viewport: { width: 1280, height: 800 } });

await terminal("survey.png", "npx sleeve survey before", [sleeve, "survey", "before"], harbour);
const roster = join(harbour, "vendor-next/tug-roster");
await terminal(
  "drift.png",
  "npx sleeve drift after --against vendor-next/tug-roster",
  [sleeve, "drift", "after", "--against", roster],
  harbour,
);
await terminal(
  "exports.png",
  "npx sleeve exports vendor-next/tug-roster --against vendor/tug-roster",
  [sleeve, "exports", roster, "--against", join(harbour, "vendor/tug-roster")],
  harbour,
);
const copy = copyOfBefore();
const gauge = "@port-ellery/gauge-feed";
await terminal("draft.png", `npx sleeve draft ${gauge} before`, [sleeve, "draft", gauge, copy], harbour);
spawnSync(process.execPath, [sleeve, "draft", gauge, copy, "--write"]);
await terminal(
  "move.png",
  `npx sleeve move ${gauge} before`,
  [sleeve, "move", gauge, copy],
  harbour,
  ({ length }) => length,
);
rmSync(copy, { recursive: true });
const tideTable = "src/tides/tide-table.ts#TideTable";
const decorator = ["wrap", tideTable, "--as", "decorator", "--layer", "timing"];
await terminal(
  "wrap.png",
  `npx sleeve ${decorator.join(" ")}`,
  [sleeve, ...decorator],
  join(harbour, "after"),
);
const tugs = "src/tugs/tugs.ts#Tugs";
const over = ["wrap", tugs, "--as", "adapter", "--over", "@port-ellery/tug-roster#TugRoster", "--explain"];
await terminal("wrap-adapter.png", `npx sleeve ${over.join(" ")}`, [sleeve, ...over], join(harbour, "after"));
await terminal(
  "check-findings.png",
  "npx sleeve check tests/fixtures/wrong-wrappers",
  [sleeve, "check", "tests/fixtures/wrong-wrappers"],
  join(root, "packages/sleeve-cli"),
);
const wrong = join(root, "packages/sleeve-cli/tests/fixtures/wrong-wrappers");
await printedPage("check-page.png", [sleeve, "check", "--page"], wrong);
const { folder: results } = await writeResults(mkdtempSync(join(tmpdir(), "port-ellery-")));
const report = [sleeve, "report"];
await terminal("report.png", "npx sleeve report conformance.json", [...report, "conformance.json"], results);
await terminal("report-wrong.png", "npx sleeve report wrong.json", [...report, "wrong.json"], results);
await terminal("report-faults.png", "npx sleeve report faults.json", [...report, "faults.json"], results);
await printedPage("report-page.png", [...report, "--page", "wrong.json", "faults.json"], results);
await terminal(
  "report-difference.png",
  "npm run demo",
  [join(harbour, "demo/demo.mjs")],
  root,
  (lines) => lines.findIndex((line) => line.startsWith("11. ")) - 1,
);
rmSync(results, { recursive: true });
await terminal("demo.png", "npm run demo", [join(harbour, "demo/demo.mjs")], root);
await page("page.png", "page-admission.png");
await browser.close();

/** Runs a command and renders part of its output as a terminal shows it. */
async function terminal(name, command, args, cwd, from = () => 0) {
  const { stdout, stderr } = spawnSync(process.execPath, args, {
    cwd,
    encoding: "utf8",
    env: { ...process.env, FORCE_COLOR: "1", SLEEVE_NO_PROGRESS: "1" },
  });
  const lines = `${stdout}${stderr}`.trimEnd().split("\n");
  const fitting = 43;
  const start = Math.max(0, Math.min(from(lines), lines.length - fitting));
  const shown = lines.slice(start, start + fitting);
  const left = lines.length - start - fitting;
  if (start > 0) shown[0] = "...";
  if (left > 0) shown[fitting - 1] = `... and ${left + 1} more lines`;
  await tab.setContent(terminalPage(`$ ${command}`, shown));
  await tab.screenshot({ path: join(folder, name) });
}

/** Renders a page that a command prints. */
async function printedPage(name, args, cwd) {
  const { stdout } = spawnSync(process.execPath, args, { cwd, encoding: "utf8", maxBuffer: 1 << 26 });
  await tab.setContent(stdout);
  await tab.screenshot({ path: join(folder, name) });
}

function terminalPage(prompt, lines) {
  const body = [`<b>${escaped(prompt)}</b>`, "", ...lines.map(html)].join("\n");
  return `<style>
    body { margin: 0; padding: 18px 22px; background: #11201f; color: #e4ebe8; }
    pre { margin: 0; font: 13.5px/16.6px "DejaVu Sans Mono", monospace; white-space: pre; }
    .b { font-weight: bold; } .d { color: #8fa3a0; } .r { color: #ff8a70; } .g { color: #7fd6a4; } .y { color: #ecc96b; } .c { color: #86cfe6; }
  </style><pre>${body}</pre>`;
}

/** Returns a line with its colour codes as markup. */
function html(line) {
  return escaped(line).replaceAll(COLOUR, (_, code) => {
    if (CLASSES[code]) return `<span class="${CLASSES[code]}">`;
    return "</span>";
  });
}

function escaped(text) {
  return text.replaceAll("&", "&amp;").replaceAll("<", "&lt;");
}

/** Renders the page, and the admission of three vessels. */
async function page(name, admissionName) {
  const project = { root: join(harbour, "page"), logLevel: "warn" };
  await build(project);
  const server = await preview({ ...project, preview: { port: 0, host: "127.0.0.1" } });
  await tab.goto(server.resolvedUrls.local[0]);
  await tab.waitForSelector("#chart svg");
  await tab.waitForFunction(
    () =>
      document.querySelectorAll("#calls tr").length > 40 &&
      !document.querySelector("#calls").textContent.includes("…"),
  );
  await tab.screenshot({ path: join(folder, name) });
  await admit({ vessel: "Marigold", draught: "0.6", length: "60", tons: "900" });
  await admit({ vessel: "Albatross", draught: "0.8", length: "75", tons: "60000" });
  await admit({ vessel: "Kittiwake", draught: "0.5", length: "20", tons: "5000" });
  await tab.evaluate(() => document.querySelector("#admission").scrollIntoView());
  await tab.screenshot({ path: join(folder, admissionName) });
  await server.close();
}

async function admit(visit) {
  const before = await tab.textContent("#answer");
  for (const [field, value] of Object.entries(visit)) await tab.fill(`#visit input[name=${field}]`, value);
  await tab.click("#visit button");
  await tab.waitForFunction((old) => document.querySelector("#answer").textContent !== old, before);
}
