import { cached, decorate, type Layer, type LogEntry, logging, type Sample, timing } from "sleeve";
import { connectGaugeTides } from "../../after/src/tides/gauge-tides.ts";
import { loadSumsTides } from "../../after/src/tides/sums-tides.ts";
import type { TideTable } from "../../after/src/tides/tide-table.ts";

/** The two tide tables of the office. A client cannot distinguish them. */
export const tables = {
  gauge: connectGaugeTides("PE-1"),
  sums: loadSumsTides("PE-1"),
} satisfies Record<string, TideTable>;

/** Created once, so that cached heights survive switching the other layers. */
const kept = cached<TideTable>({
  only: ["heightAt", "tidesOn"],
  ttl: "10m",
  key: ([time]) => minuteOf(time),
});

/** The gauge has one reading a minute, so all times of a minute have the same height. */
function minuteOf(time: unknown): string {
  return (time as Date).toISOString().slice(0, 16);
}

export type TableName = keyof typeof tables;

/** Which layers are on, and the receivers of their output. */
export interface Watch {
  readonly logging: boolean;
  readonly timing: boolean;
  readonly cached: boolean;
  readonly onEntry: (entry: LogEntry) => void;
  readonly onSample: (sample: Sample) => void;
}

/**
 * Creates a tide table with the chosen layers. Logging is outermost, so it logs a call after its timing; the cache is innermost,
 * so that both observe every call.
 */
export function watchedTable(name: TableName, watch: Watch): TideTable {
  const layers: Layer<TideTable>[] = [];
  if (watch.logging) layers.push(logging({ logger: { info: watch.onEntry, error: watch.onEntry } }));
  if (watch.timing) layers.push(timing({ onSample: watch.onSample }));
  if (watch.cached) layers.push(kept);
  return decorate(tables[name], ...layers);
}
