import { decorate, type Layer, type LogEntry, logging, type Sample, timing } from "sleeve";
import { connectGaugeTides } from "../../after/src/tides/gauge-tides.ts";
import { loadSumsTides } from "../../after/src/tides/sums-tides.ts";
import type { TideTable } from "../../after/src/tides/tide-table.ts";

/** The two tide tables of the office. They are alike to whoever holds one. */
export const tables = {
  gauge: connectGaugeTides("PE-1"),
  sums: loadSumsTides("PE-1"),
} satisfies Record<string, TideTable>;

export type TableName = keyof typeof tables;

/** Which layers are on, and who is told. */
export interface Watch {
  readonly logging: boolean;
  readonly timing: boolean;
  readonly onEntry: (entry: LogEntry) => void;
  readonly onSample: (sample: Sample) => void;
}

/** A tide table with the chosen layers around it; the log is outside, so it hears of a call after its timing. */
export function watchedTable(name: TableName, watch: Watch): TideTable {
  const layers: Layer<TideTable>[] = [];
  if (watch.logging) layers.push(logging({ to: { info: watch.onEntry, error: watch.onEntry } }));
  if (watch.timing) layers.push(timing({ to: watch.onSample }));
  return decorate(tables[name], ...layers);
}
