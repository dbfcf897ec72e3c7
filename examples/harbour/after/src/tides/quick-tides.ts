import { cached, decorate, type Sample, timing } from "sleeve";
import { loadSumsTides } from "./sums-tides.ts";
import type { TideTable } from "./tide-table.ts";

/**
 * Creates a tide table of harmonic sums, cached for ten minutes.
 *
 * @param onComputed receives a sample for each sum that was computed rather than cached
 */
export function quickTides(computed: (sample: Sample) => void): TideTable {
  return decorate(
    loadSumsTides("PE-1"),
    cached({ only: ["heightAt", "tidesOn"], ttl: "10m", size: 5000 }),
    timing({ onSample: computed, only: ["heightAt", "tidesOn"] }),
  );
}
