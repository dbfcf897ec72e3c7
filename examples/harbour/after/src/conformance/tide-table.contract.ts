import fc from "fast-check";
import { closeTo, contract, law } from "sleeve/conform";
import { TidesUnavailable, type TideTable } from "../tides/tide-table.ts";

const DAY = new Date("2026-11-24T00:00Z");
const times = fc.date({ min: DAY, max: new Date("2026-11-24T23:59Z"), noInvalidDate: true });
const TO_TWO_CENTIMETRES = { within: 0.02, unit: "metres" } as const;

/** The contract of every tide table of Port Ellery. */
export const tideTableContract = contract<TideTable>("TideTable", {
  surface: { port: "property", heightAt: "method", tidesOn: "method", close: "method" },
  arguments: { heightAt: [times], tidesOn: [times] },
  results: {
    heightAt: (height) => height > -2 && height < 12,
    tidesOn: (tides) => tides.every(({ at }, index) => index === 0 || at > (tides[index - 1]?.at ?? at)),
  },
  examples: {
    "is the table of Port Ellery": ({ port }) => port === "Port Ellery",
    "has 4.53 m at the morning's high water": async (tides) => {
      closeTo(await tides.heightAt(new Date("2026-11-24T08:27Z")), 4.53, TO_TWO_CENTIMETRES);
    },
    "has two low and two high waters on the day, in order": async (tides) => {
      const found = await tides.tidesOn(DAY);
      return found.map(({ kind }) => kind).join(" ") === "low high low high";
    },
    "may be closed twice": (tides) => {
      tides.close();
      tides.close();
    },
  },
  laws: {
    "the height stays between the day's lowest and highest water": law(times, async (tides, time) => {
      const [height, turns] = await Promise.all([tides.heightAt(time), tides.tidesOn(DAY)]);
      const heights = turns.map((turn) => turn.height);
      return height >= Math.min(...heights) - 0.1 && height <= Math.max(...heights) + 0.1;
    }),
    "the height at a turn of the tide is that of the turn": law(fc.nat(3), async (tides, index) => {
      const turn = (await tides.tidesOn(DAY))[index];
      if (!turn) throw new Error(`the day has no turn ${index}`);
      closeTo(await tides.heightAt(turn.at), turn.height, TO_TWO_CENTIMETRES);
    }),
  },
  refusals: {
    "a time before there were tables": {
      call: (tides) => tides.heightAt(new Date("1890-01-01T00:00Z")),
      error: TidesUnavailable,
    },
    "an invalid date": { call: (tides) => tides.heightAt(new Date(Number.NaN)), error: TidesUnavailable },
  },
  errors: [TidesUnavailable],
});
