import type { Config } from "sleeve-cli";

export default {
  targets: {
    "src/tides/tide-table.ts#TideTable": [
      "src/tides/gauge-tides.ts#gaugeTides",
      "src/tides/sums-tides.ts#sumsTides",
      "src/tides/fixed-tides.ts#FixedTides",
    ],
  },
  borders: {
    "@port-ellery/gauge-feed": ["src/tides/gauge-tides.ts"],
    "@port-ellery/tide-sums": ["src/tides/sums-tides.ts"],
  },
} satisfies Config;
