import { awaitedReading } from "../../after/src/tides/latest-reading.ts";
import type { TideTable } from "../../after/src/tides/tide-table.ts";
import { offerAdmission } from "./admission.ts";
import { CallLog } from "./call-log.ts";
import { element } from "./element.ts";
import { type TableName, watchedTable } from "./tables.ts";
import { tideChart } from "./tide-chart.ts";

const DAY = 86_400_000;
const HALF_HOUR = 1_800_000;
/** Local time is an hour ahead of UTC. */
const AHEAD = 3_600_000;

const controls = element("controls", HTMLFormElement);
const log = new CallLog(element("calls", HTMLTableSectionElement));

let tides = chosenTable();

controls.addEventListener("change", () => {
  tides = chosenTable();
  void draw();
});
element("read", HTMLButtonElement).addEventListener("click", () => void readNow());
element("wait", HTMLButtonElement).addEventListener("click", () => void waitForGauge());
void draw();
offerAdmission(() => tides);

/** The table and the layers selected in the controls. */
function chosenTable(): TideTable {
  const chosen = new FormData(controls);
  const isLogged = chosen.has("logging");
  const isTimed = chosen.has("timing");
  log.clear();
  element("quiet", HTMLElement).hidden = isLogged || isTimed;
  return watchedTable(chosen.get("table") as TableName, {
    logging: isLogged,
    timing: isTimed,
    cached: chosen.has("cached"),
    onEntry: (entry) => log.entry(entry),
    onSample: (sample) => log.sample(sample, isLogged),
  });
}

/** Draws the heights of the whole day, unless another table was chosen in the meantime. */
async function draw(): Promise<void> {
  const requested = tides;
  const now = new Date();
  const start = Math.floor(now.getTime() / DAY) * DAY;
  const times = Array.from(
    { length: DAY / HALF_HOUR + 1 },
    (_, index) => new Date(start + index * HALF_HOUR),
  );
  const [heights, turns, height] = await Promise.all([
    Promise.all(times.map((time) => requested.heightAt(time))),
    requested.tidesOn(now),
    requested.heightAt(now),
  ]);
  if (requested !== tides) return;
  const curve = times.map((at, index) => ({ at, height: heights[index] as number }));
  element("chart", HTMLElement).replaceChildren(tideChart(curve, turns, { at: now, height }));
  const source =
    new FormData(controls).get("table") === "gauge" ? "read from the gauge" : "computed from harmonic sums";
  element("caption", HTMLElement).textContent =
    `${requested.port}, ${now.toISOString().slice(0, 10)}, ${source}`;
  announce(height);
}

async function readNow(): Promise<void> {
  announce(await tides.heightAt(new Date()));
}

/** Waits for a slow gauge, and shows the duration. */
async function waitForGauge(): Promise<void> {
  const summary = element("summary", HTMLElement);
  summary.textContent = "Waiting for the gauge …";
  const local = new Date(Date.now() + AHEAD).toISOString().slice(0, 16).replace("T", " ");
  let waited = "";
  const reading = awaitedReading(local, 50 + Math.random() * 500, ({ milliseconds, attempts }) => {
    waited = `It was ${milliseconds.toFixed(0)} ms late, read ${attempts} times.`;
  });
  const height = await reading.latest();
  reading.close();
  summary.textContent = `The gauge reads ${height?.toFixed(2)} metres. ${waited}`;
}

function announce(height: number): void {
  element("summary", HTMLElement).textContent =
    `The tide stands at ${height.toFixed(2)} metres above chart datum.`;
}
