import * as Plot from "@observablehq/plot";
import type { Tide } from "../../after/src/tides/tide-table.ts";

/** One point of the curve. The height is in metres above chart datum. */
export interface Point {
  readonly at: Date;
  readonly height: number;
}

/** Draws the tide of a day: the curve, its turns, and the present height. */
export function tideChart(curve: readonly Point[], tides: readonly Tide[], now: Point): Element {
  const text = ({ at, height }: Point) => `${at.toISOString().slice(11, 16)}  ${height.toFixed(2)} m`;
  const labels = { x: "at", y: "height", text, fill: "#16302f", stroke: "#fbfaf6", strokeWidth: 4 };
  const turnsOf = (kind: Tide["kind"]) => tides.filter((tide) => tide.kind === kind);
  return Plot.plot({
    width: 560,
    height: 430,
    marginLeft: 48,
    marginTop: 28,
    marginBottom: 44,
    x: {
      type: "utc",
      label: "time of day, UTC",
      labelOffset: 38,
      domain: [curve[0]?.at, curve.at(-1)?.at],
      tickFormat: (time: Date) => time.toISOString().slice(11, 16),
    },
    y: { label: "metres above chart datum", domain: [0, 6], ticks: 6, grid: true },
    marks: [
      Plot.areaY(curve, { x: "at", y: "height", fill: "#2b7a78", fillOpacity: 0.14, curve: "natural" }),
      Plot.lineY(curve, { x: "at", y: "height", stroke: "#2b7a78", strokeWidth: 2, curve: "natural" }),
      Plot.dot(tides, { x: "at", y: "height", fill: "#2b7a78" }),
      Plot.text(turnsOf("high"), { ...labels, dy: -14 }),
      Plot.text(turnsOf("low"), { ...labels, dy: 16 }),
      Plot.ruleX([now], { x: "at", stroke: "#a43a1e", strokeDasharray: "3 3" }),
      Plot.dot([now], { x: "at", y: "height", fill: "#a43a1e", r: 5 }),
    ],
  });
}
