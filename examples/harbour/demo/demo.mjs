/** npm run demo: the whole job on the harbour office. Each chapter shows a command or a call, its key lines, and a file to read. */
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
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
import { chapter, failureLine, firstLines, lastLines, matching, print, read, sleeve } from "./printer.mjs";
import { writeResults } from "./results.mjs";

const now = new Date("2026-11-24T06:00Z");
const gauges = [];

chapter("See the trouble: outside packages in the old office");
sleeve("survey", "examples/harbour/before", {
  show: (lines) => [...lines.slice(2, 7), ...matching(/^Isolate|^ {2}It is used/)(lines)],
});
read("before/src/office.ts", "docs/survey.md");

const copy = copyOfBefore();
try {
  chapter("Name the target and wrap: drafted from the members in use");
  sleeve("draft", "@port-ellery/tide-sums", { folder: copy, options: ["--write"], show: firstLines(8) });
  read("after/src/tides/tide-table.ts", "docs/draft.md");

  chapter("Move the callers: a dry run, then the same with --write");
  sleeve("move", "@port-ellery/tide-sums", {
    folder: copy,
    show: (lines) => [...lines.slice(0, 6), "...", ...lastLines(8)(lines)],
  });
  sleeve("move", "@port-ellery/tide-sums", {
    folder: copy,
    options: ["--write", "--uncommitted"],
    show: lastLines(1),
  });
  read("docs/move.md");
} finally {
  rmSync(copy, { recursive: true });
}

chapter("Check the finished office: wrappers and borders");
sleeve("check", "examples/harbour/after", { show: lastLines(1) });
read("after/sleeve.config.ts", "docs/check.md");

chapter("Compare before with after: may the Marigold, 4.6 m deep, enter at 06:00?");
printAnswer("before, directly over the gauge", await mayEnterBefore("Marigold", 4.6, now));
const gauge = openGauge();
printAnswer("after, over the gauge", await mayEnterAfter(gauge, "Marigold", 4.6, now));
printAnswer("after, over the sums", await mayEnterAfter(loadSumsTides("PE-1"), "Marigold", 4.6, now));
read("after/src/tides/gauge-tides.ts", "docs/wrappers.md");

chapter("Add layers: log and time each call");
const samples = [];
const watched = decorate(
  gauge,
  logging({ logger: { info: printEntry, error: printEntry } }),
  timing({ onSample: (sample) => samples.push(sample) }),
);
await watched.heightAt(now);
await watched.heightAt(new Date("1890-01-01T00:00Z")).catch(() => {});
print(
  samples
    .map(({ member, status, milliseconds }) => `${member} ${status} in ${milliseconds.toFixed(1)} ms`)
    .join("; "),
);
// The order is reported as a warning too, which would appear among the lines of this demo.
process.removeAllListeners("warning");
for (const { text, better } of explain(decorate(gauge, cached(), logging())).conflicts) {
  print(`explain: ${text}. Better: ${better.join(", then ")}.`);
}
read("docs/layers.md");

chapter("Cache slow sums, and wait for a slow gauge");
const computed = [];
const quick = quickTides((sample) => computed.push(sample));
const day = Array.from({ length: 48 }, (_, index) => new Date(now.getTime() + index * 1_800_000));
for (let round = 0; round < 20; round++) await Promise.all(day.map((time) => quick.heightAt(time)));
print(`${20 * day.length} heights requested, ${computed.length} computed.`);
const late = awaitedReading("2026-11-24 07:00", 60, ({ milliseconds, attempts }) =>
  print(`The reading came after ${milliseconds.toFixed(0)} ms and ${attempts} attempts.`),
);
await late.latest();
late.close();
read("after/src/tides/quick-tides.ts");

chapter("Guard a ledger: access by user, valid arguments, opened on first use");
print(failureLine("a visitor books", () => guardedBerths(visitor).book("Marigold", 60)));
const berths = guardedBerths(master);
print(failureLine("the harbour master books 900 m", () => berths.book("Marigold", 900)));
print(`ledgers opened so far: ${BerthLedger.openings}`);
const { berth, reference } = berths.book("Marigold", 60);
print(
  `the harbour master books 60 m: berth ${berth}, booking ${reference}; ledgers opened: ${BerthLedger.openings}`,
);
read("after/src/guarded-berths.ts");

chapter("Bridge: one port over several channels, switched at run time");
const channel = openNotices("vhf");
const notices = refined(channel);
await notices.announce({ vessel: "Marigold", berth });
await channel.use("post");
await notices.shiftBerth("Marigold", berth, 5);
print(`by radio: ${tape.join("; ")}`);
print(`by post:  ${quayPost.board.map(({ Body }) => Body).join("; ")}`);
read("after/src/notices/notices.ts");

chapter("Facade: four subsystems behind one operation, undone on failure");
const subsystems = { tides: openGauge(), berths: openBerths(), tugs: tugsOfToday(), notices: channel.port };
const office = openOffice(subsystems);
await printVisit(office, { vessel: "Marigold", draught: 4.6, length: 60, tons: 900, at: now });
await printVisit(office, {
  vessel: "Petrel",
  draught: 5.9,
  length: 60,
  tons: 900,
  at: new Date("2026-11-24T14:30Z"),
});
const silent = openOffice({ ...subsystems, notices: failingChannel(channel.port) });
await printVisit(silent, { vessel: "Curlew", draught: 3.1, length: 30, tons: 900, at: now });
await printVisit(office, { vessel: "Albatross", draught: 4.2, length: 75, tons: 60_000, at: now });
await printVisit(office, { vessel: "Kittiwake", draught: 3.1, length: 20, tons: 5000, at: now });
read("after/src/admit.ts");

const results = await writeResults(mkdtempSync(join(tmpdir(), "port-ellery-")));
chapter("Test every implementation with one contract");
printReport(results.conformance);
printReport(results.wrong);
read("after/src/conformance/tide-table.contract.ts", "docs/contracts.md");

chapter("Measure the tests: faults injected into a fixed table, one at a time");
sleeve("report", "faults.json", {
  cwd: results.folder,
  exitCode: 1,
  show: (lines) => [...matching(/^missed/)(lines), ...lastLines(1)(lines)],
});
read("docs/results.md");

chapter("Compare two implementations: the smallest difference, as code");
for (const line of comparisonText(results.tugs).trimEnd().split("\n").slice(1)) print(line);
read("demo/results.mjs");
rmSync(results.folder, { recursive: true });

chapter("Watch for drift: the next version of the tug roster, before installing it");
sleeve("drift", "examples/harbour/after", {
  options: ["--against", "examples/harbour/vendor-next/tug-roster"],
  exitCode: 1,
  show: (lines) => [...lines.slice(0, 5), ...lastLines(1)(lines)],
});
read("docs/drift.md");

chapter("In the browser: the tide of today, with layers and admissions");
print("$ npm run page      serves it at http://localhost:4173");
read("page/src/main.ts");
for (const opened of gauges) opened.close();

function openGauge() {
  const tides = connectGaugeTides("PE-1");
  gauges.push(tides);
  return tides;
}

/** A channel whose announcements fail. */
function failingChannel(working) {
  return override(working, () => ({
    announce: async () => {
      throw new Error("the radio is dead");
    },
  }));
}

async function printVisit(at, visit) {
  const answer = await at.admit(visit).catch((error) => error);
  print(`${visit.vessel.padEnd(9)} ${visitText(answer)}`);
}

function visitText(answer) {
  if (answer instanceof Error) return answer.message;
  if (!(answer instanceof Refusal))
    return `berth ${answer.berth}, tugs: ${answer.tugs.join(" and ") || "none"}`;
  const undone = answer.undone.length > 0 ? `; undone: ${answer.undone.join(", ")}` : "";
  return `refused in step ${answer.step}: ${answer.reason}${undone}`;
}

function printAnswer(source, { mayEnterNow, height, highWater }) {
  const time = highWater ? highWater.toISOString().slice(11, 16) : "unknown";
  print(`${source.padEnd(31)}  ${mayEnterNow ? "yes" : "no"}, ${height.toFixed(2)} m, high water at ${time}`);
}

function printEntry({ call, member, event, value, error }) {
  if (event === "called") return;
  print(`#${call} ${member} ${event}: ${error ? `${error.name}: ${error.message}` : value.toFixed(2)}`);
}

function printReport({ implementations }) {
  for (const { name, checks, conforms } of implementations) {
    const failed = checks.filter(({ findings }) => findings.length > 0);
    const [first] = failed.flatMap(({ findings }) => findings);
    print(
      `${name.padEnd(26)}  ${conforms ? "conforms" : `${failed.length} checks fail`}${first ? `: ${first.name}, ${first.place}` : ""}`,
    );
  }
}
