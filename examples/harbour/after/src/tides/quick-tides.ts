import { cached, decorate, type Sample, timing } from "sleeve";
import { loadSumsTides } from "./sums-tides.ts";
import type { TideTable } from "./tide-table.ts";

/**
 * The harmonic sums, each kept for ten minutes once it has been added up.
 *
 * @param reckoned is told of each sum that was added up, and not taken from those that are kept
 */
export function quickTides(reckoned: (sample: Sample) => void): TideTable {
  return decorate(
    loadSumsTides("PE-1"),
    cached({ only: ["heightAt", "tidesOn"], ttl: "10m", size: 5000 }),
    timing({ onSample: reckoned, only: ["heightAt", "tidesOn"] }),
  );
}
