import type { Config } from "sleeve-cli";

export default {
  targets: {
    "src/tides/tide-table.ts#TideTable": [
      "src/tides/gauge-tides.ts#gaugeTides",
      "src/tides/sums-tides.ts#sumsTides",
      "src/tides/fixed-tides.ts#FixedTides",
    ],
    "src/berths/berths.ts#Berths": ["src/berths/ledger-berths.ts#ledgerBerths"],
    "src/tugs/tugs.ts#Tugs": ["src/tugs/roster-tugs.ts#rosterTugs"],
    "src/notices/notice-channel.ts#NoticeChannel": [
      "src/notices/vhf-channel.ts#vhfChannel",
      "src/notices/lights-channel.ts#lightsChannel",
      "src/notices/post-channel.ts#postChannel",
    ],
  },
  borders: {
    "@port-ellery/gauge-feed": [
      "src/conformance/implementations.ts",
      "src/tides/gauge-tides.ts",
      "src/tides/latest-reading.ts",
      "tests/tide-table.test.ts",
    ],
    "@port-ellery/tide-sums": ["src/tides/sums-tides.ts"],
    "@port-ellery/berth-ledger": ["src/berths/ledger-berths.ts", "tests/office.test.ts"],
    "fast-xml-parser": ["src/berths/ledger-berths.ts"],
    "@port-ellery/tug-roster": ["src/tugs/roster-tugs.ts"],
    "@port-ellery/vhf-desk": ["src/notices/vhf-channel.ts"],
    "@port-ellery/mast-lights": ["src/notices/lights-channel.ts"],
    "@port-ellery/quay-post": ["src/notices/post-channel.ts"],
  },
} satisfies Config;
