/** npm run demo: the whole job on the harbour office, as the commands really print it. */
import { spawnSync } from "node:child_process";
import { join } from "node:path";
import { decorate, logging, timing } from "sleeve";
import { checkContract } from "sleeve/conform";
import { faulty, implementations } from "../after/dist/conformance/implementations.js";
import { tideTableContract } from "../after/dist/conformance/tide-table.contract.js";
import { mayEnter as mayEnterAfter } from "../after/dist/office.js";
import { connectGaugeTides } from "../after/dist/tides/gauge-tides.js";
import { loadSumsTides } from "../after/dist/tides/sums-tides.js";
import { mayEnter as mayEnterBefore } from "../before/dist/office.js";

const harbour = join(import.meta.dirname, "..");
const root = join(harbour, "../..");
const now = new Date("2026-11-24T06:00Z");

chapter("1. See the trouble: outside code in before/");
sleeve("survey", "examples/harbour/before");

chapter("2. After naming a target, wrapping and moving the callers: is after/ as it should be?");
sleeve("check", "examples/harbour/after");

chapter("3. One question, asked of both: may the Marigold, 4.6 m deep, enter on 24 November 2026 at 06:00?");
const before = await mayEnterBefore("Marigold", 4.6, now);
const gauge = connectGaugeTides("PE-1");
const after = await mayEnterAfter(gauge, "Marigold", 4.6, now);
const reckoned = await mayEnterAfter(loadSumsTides("PE-1"), "Marigold", 4.6, now);
tellAnswer("before, straight to the gauge and the sums", before);
tellAnswer("after, a tide table over the gauge", after);
tellAnswer("after, a tide table over the sums", reckoned);

chapter("4. Layers around the tide table, with neither side touched: every call logged and timed");
const samples = [];
const watched = decorate(
  gauge,
  logging({ to: { info: tellEntry, error: tellEntry } }),
  timing({ to: (sample) => samples.push(sample) }),
);
await watched.heightAt(now);
await watched.tidesOn(now);
await watched.heightAt(new Date("1890-01-01T00:00Z")).catch(() => {});
watched.close();
console.log("");
for (const { member, status, milliseconds } of samples) {
  console.log(`  ${member.padEnd(8)}  ${status.padEnd(8)}  ${milliseconds.toFixed(2).padStart(7)} ms`);
}

chapter("5. One contract for every tide table");
tellReport(await checkContract(tideTableContract, implementations));
console.log("\n  and for wrappers that are wrong on purpose:\n");
tellReport(await checkContract(tideTableContract, faulty));

chapter("6. The same in the browser");
console.log("  The page draws today's tide from either table, with the layers switched on and off:\n");
console.log("    npm run page\n\n  which serves it at http://localhost:4173.\n");

function chapter(title) {
  console.log(`\n${title}\n${"-".repeat(title.length)}\n`);
}

/** Runs the command itself, on the folder as the user would name it, and shows what it prints. */
function sleeve(command, folder) {
  console.log(`$ npx sleeve ${command} ${folder}\n`);
  const cli = join(root, "packages/sleeve-cli/dist/cli.js");
  const { status } = spawnSync(process.execPath, [cli, command, folder], { cwd: root, stdio: "inherit" });
  if (status !== 0) throw new Error(`sleeve ${command} ended with ${status}`);
}

function tellAnswer(source, { mayEnterNow, height, windows, highWater }) {
  const hours = windows.map(({ from, to }) => `${clock(from)} to ${clock(to)}`).join(", ");
  console.log(`  ${source}`);
  console.log(
    `    ${mayEnterNow ? "yes" : "no"}, at ${height.toFixed(2)} m; open ${hours}; high water ${clock(highWater)}`,
  );
}

function clock(time) {
  return time ? time.toISOString().slice(11, 16) : "unknown";
}

function tellEntry(entry) {
  const { call, member, event } = entry;
  const detail =
    event === "called"
      ? shown(entry.args)
      : "error" in entry
        ? `${entry.error.name}: ${entry.error.message}`
        : shown(entry.value);
  console.log(`  #${call} ${member.padEnd(8)} ${event.padEnd(8)} ${detail}`);
}

function shown(value) {
  const text = JSON.stringify(value) ?? "";
  return text.length > 90 ? `${text.slice(0, 87)}...` : text;
}

function tellReport({ implementations: reports }) {
  const width = Math.max(...reports.map(({ name }) => name.length));
  for (const { name, checks, conforms } of reports) {
    const passed = checks.filter(({ findings }) => findings.length === 0).length;
    console.log(
      `  ${name.padEnd(width)}  ${conforms ? "conforms" : "does not conform"}: ${passed} of ${checks.length} checks pass`,
    );
    const [first] = checks.flatMap(({ findings }) => findings);
    if (first)
      console.log(
        `    ${first.name}: ${first.place}\n      expected ${first.expected}\n      found    ${first.found}`,
      );
  }
}
