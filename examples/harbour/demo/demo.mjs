/** npm run demo: the whole job on the harbour office, as the commands really print it. */
import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join, relative } from "node:path";
import { BerthLedger } from "@port-ellery/berth-ledger";
import quayPost from "@port-ellery/quay-post";
import { tape } from "@port-ellery/vhf-desk";
import { cached, decorate, explain, logging, override, Refusal, timing } from "sleeve";
import { comparisonText } from "sleeve/conform";
import { openOffice } from "../after/dist/admit.js";
import { openBerths } from "../after/dist/berths/ledger-berths.js";
import { guardedBerths, master, visitor } from "../after/dist/guarded-berths.js";
import { openNotices, refined } from "../after/dist/notices/notices.js";
import { mayEnter as mayEnterAfter } from "../after/dist/office.js";
import { connectGaugeTides } from "../after/dist/tides/gauge-tides.js";
import { awaitedReading } from "../after/dist/tides/latest-reading.js";
import { quickTides } from "../after/dist/tides/quick-tides.js";
import { loadSumsTides } from "../after/dist/tides/sums-tides.js";
import { tugsOfToday } from "../after/dist/tugs/roster-tugs.js";
import { mayEnter as mayEnterBefore } from "../before/dist/office.js";
import { copyOfBefore } from "./copy.mjs";
import { writeResults } from "./results.mjs";

const harbour = join(import.meta.dirname, "..");
const root = join(harbour, "../..");
const now = new Date("2026-11-24T06:00Z");
const gauges = [];

chapter("1. See the trouble: outside code in before/");
sleeve("survey", "examples/harbour/before");

chapter("2. Name the target: a draft of what the office uses of the tide sums, in a copy of before/");
const copy = copyOfBefore();
try {
  sleeve("draft", "@port-ellery/tide-sums", { folder: copy, options: ["--write"] });
  console.log(
    readFileSync(join(copy, "src/tide-sums/tide-sums-adapter.ts"), "utf8").replace(/^(?=.)/gm, "  "),
  );

  chapter("3. Move the callers over to it: shown first, then written, and checked by the compiler each time");
  sleeve("move", "@port-ellery/tide-sums", { folder: copy });
  sleeve("move", "@port-ellery/tide-sums", { folder: copy, options: ["--write", "--uncommitted"], tail: 1 });
} finally {
  rmSync(copy, { recursive: true });
}

chapter("4. After naming a target, wrapping and moving the callers: is after/ as it should be?");
sleeve("check", "examples/harbour/after");

chapter("5. One question, asked of both: may the Marigold, 4.6 m deep, enter on 24 November 2026 at 06:00?");
const before = await mayEnterBefore("Marigold", 4.6, now);
const gauge = connectGaugeTides("PE-1");
const after = await mayEnterAfter(gauge, "Marigold", 4.6, now);
const reckoned = await mayEnterAfter(loadSumsTides("PE-1"), "Marigold", 4.6, now);
tellAnswer("before, straight to the gauge and the sums", before);
tellAnswer("after, a tide table over the gauge", after);
tellAnswer("after, a tide table over the sums", reckoned);

chapter("6. Layers around the tide table, with neither side touched: every call logged and timed");
const samples = [];
const watched = decorate(
  gauge,
  logging({ logger: { info: tellEntry, error: tellEntry } }),
  timing({ onSample: (sample) => samples.push(sample) }),
);
await watched.heightAt(now);
await watched.tidesOn(now);
await watched.heightAt(new Date("1890-01-01T00:00Z")).catch(() => {});
watched.close();
console.log("");
for (const { member, status, milliseconds } of samples) {
  console.log(`  ${member.padEnd(8)}  ${status.padEnd(8)}  ${milliseconds.toFixed(2).padStart(7)} ms`);
}

chapter("7. Sums that are kept, and a late gauge that is waited for");
const addedUp = [];
const quick = quickTides((sample) => addedUp.push(sample));
const day = Array.from({ length: 48 }, (_, index) => new Date(now.getTime() + index * 1_800_000));
for (let round = 0; round < 20; round++) await Promise.all(day.map((time) => quick.heightAt(time)));
console.log(`  ${20 * day.length} heights asked for, ${addedUp.length} added up: the others were kept.`);
const late = awaitedReading("2026-11-24 07:00", 60, ({ milliseconds, attempts }) =>
  console.log(
    `  The gauge was ${milliseconds.toFixed(0)} ms late, asked ${attempts} times. A fixed pause would have been a guess.`,
  ),
);
console.log(`  It reads ${(await late.latest()).toFixed(2)} m.`);
late.close();
for (const { layer, behind, better } of explain(decorate(gauge, cached(), logging())).hidden) {
  console.log(`  In the wrong order, explain says so: "${layer}" misses what "${behind}" answers.`);
  console.log(`    Better: ${better.join(", then ")}.`);
}

chapter("8. A ledger that speaks XML and error numbers, opened when it is needed, by those who may");
const openings = () => `${BerthLedger.openings} opened so far`;
const forVisitor = guardedBerths(visitor);
tellError("a visitor books", () => forVisitor.book("Marigold", 60));
console.log(`    ${openings()}`);
const forMaster = guardedBerths(master);
tellError("the harbour master books 900 m", () => forMaster.book("Marigold", 900));
console.log(`    ${openings()}`);
tellError("the harbour master books 300 m", () => forMaster.book("Marigold", 300));
const { berth, reference } = forMaster.book("Marigold", 60);
console.log(`  the harbour master books 60 m: berth ${berth}, booking ${reference}`);
console.log(`    ${openings()}`);

chapter("9. Three notice channels behind one port, changed while the office works");
const channel = openNotices("vhf");
const notices = refined(channel);
await notices.tell({ vessel: "Marigold", berth });
await channel.use("post");
await notices.shiftBerth("Marigold", berth, 5);
console.log(`  spoken on the radio  ${tape.join("; ")}`);
console.log(`  pinned up            ${quayPost.board.map(({ Body }) => Body).join("; ")}`);

chapter("10. Four subsystems, one question: may these vessels come in?");
const office = openOffice(
  { tides: gaugeAgain(), berths: openBerths(), tugs: tugsOfToday(), notices: channel.port },
  { progress: tellProgress },
);
await tellVisit({ vessel: "Marigold", draught: 4.6, length: 60, tons: 900, at: now });
await tellVisit({ vessel: "Petrel", draught: 5.9, length: 60, tons: 900, at: new Date("2026-11-24T14:30Z") });
await tellVisit({ vessel: "Albatross", draught: 4.2, length: 75, tons: 60_000, at: now });
await tellVisit({ vessel: "Tern", draught: 3.1, length: 20, tons: 200, at: now });
await channel.use("lights");
await tellVisit({ vessel: "Kittiwake", draught: 3.1, length: 20, tons: 5000, at: now });
const silent = openOffice(
  { tides: gaugeAgain(), berths: openBerths(), tugs: tugsOfToday(), notices: deadRadio(channel.port) },
  { progress: tellProgress },
);
await tellVisit({ vessel: "Curlew", draught: 3.1, length: 30, tons: 900, at: now }, silent);

chapter("11. One contract for every tide table");
const results = await writeResults(mkdtempSync(join(tmpdir(), "port-ellery-")));
tellReport(results.conformance);
console.log("\n  and for wrappers that are wrong on purpose:\n");
tellReport(results.wrong);

chapter("12. What would that contract notice? Faults put into the stand-in, one at a time");
sleeve("report", "faults.json", { cwd: results.folder, expected: 1 });

chapter("13. The tugs of today, and a roster that forgets whom it recalled");
console.log(comparisonText(results.tugs).trimEnd());
rmSync(results.folder, { recursive: true });

chapter("14. The next version of the tug roster, before it is installed: what would it break?");
sleeve("drift", "examples/harbour/after", {
  options: ["--against", "examples/harbour/vendor-next/tug-roster"],
  expected: 1,
});

chapter("15. The same in the browser");
console.log("  The page draws today's tide, with the layers switched on and off, and lets vessels in:\n");
console.log("    npm run page\n\n  which serves it at http://localhost:4173.\n");
for (const gauge of gauges) gauge.close();

function gaugeAgain() {
  const tides = connectGaugeTides("PE-1");
  gauges.push(tides);
  return tides;
}

/** A channel that tells nobody, made of one that works. */
function deadRadio(working) {
  return override(working, () => ({
    tell: async () => {
      throw new Error("the radio is dead");
    },
  }));
}

async function tellVisit(visit, at = office) {
  console.log(`  ${visit.vessel}, ${visit.draught} m deep, ${visit.length} m long, ${visit.tons} tons`);
  try {
    const answer = await at.admit(visit);
    if (answer instanceof Refusal) {
      console.log(`    -> refused in the step ${answer.step}: ${answer.reason}${undoneText(answer)}`);
    } else {
      const tugs = answer.tugs.length > 0 ? `tugs ${answer.tugs.join(" and ")}` : "no tugs";
      console.log(`    -> berth ${answer.berth}, ${tugs}, told by ${channel.current}`);
    }
  } catch (error) {
    console.log(`    -> ${error.message}`);
  }
}

function undoneText({ undone }) {
  return undone.length > 0 ? `; undone: ${undone.join(", ")}` : "";
}

function tellProgress({ step, status, milliseconds }) {
  if (status !== "started")
    console.log(`    ${step.padEnd(8)} ${status.padEnd(8)} ${milliseconds.toFixed(1).padStart(6)} ms`);
}

function tellError(what, act) {
  try {
    act();
    throw new Error(`${what}: that should not have been allowed`);
  } catch (error) {
    console.log(`  ${what}: ${error.code ?? error.name}`);
    console.log(`    ${error.message}`);
  }
}

function chapter(title) {
  console.log(`\n${title}\n${"-".repeat(title.length)}\n`);
}

/** Runs the command itself, on the folder as the user would name it, and shows what it prints. */
/** Runs a command as its user would, and shows what it prints, or only its last lines. */
function sleeve(
  command,
  named,
  { folder = "", options = [], cwd = root, expected = 0, tail = Number.POSITIVE_INFINITY } = {},
) {
  const shown = folder === "" ? [] : [relative(root, folder)];
  const args = [command, named, ...shown, ...options];
  console.log(`$ npx sleeve ${args.join(" ")}\n`);
  const cli = join(root, "packages/sleeve-cli/dist/cli.js");
  const colour = process.stdout.isTTY ? { FORCE_COLOR: "1" } : {};
  const { status, stdout, stderr } = spawnSync(process.execPath, [cli, ...args], {
    cwd,
    encoding: "utf8",
    env: { ...process.env, ...colour },
  });
  console.log(`${stdout.trimEnd().split("\n").slice(-tail).join("\n")}\n${stderr}`);
  if (status !== expected) throw new Error(`sleeve ${command} ended with ${status}`);
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
