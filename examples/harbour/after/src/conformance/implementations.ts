import { GaugeFeed } from "@port-ellery/gauge-feed";
import { decorate, layer, logging, timing } from "sleeve";
import { adapterOf, decoratorOf, type Implementations } from "sleeve/conform";
import { FixedTides } from "../tides/fixed-tides.ts";
import { gaugeTides } from "../tides/gauge-tides.ts";
import { loadSumsTides } from "../tides/sums-tides.ts";
import { metres, type Tide, type TideTable } from "../tides/tide-table.ts";

const quiet = { info: () => {}, error: () => {} };
const release = (tides: TideTable) => tides.close();

/** All tide tables of the office. */
export const implementations: Implementations<TideTable> = {
  "the gauge": adapterOf<TideTable, GaugeFeed>({
    adaptee: () => new GaugeFeed("PE-1"),
    wrap: (feed) => gaugeTides(feed),
    release,
  }),
  "the harmonic sums": { create: () => loadSumsTides("PE-1"), release },
  "the sums, logged and timed": decoratorOf<TideTable>({
    subject: { create: () => loadSumsTides("PE-1"), release },
    wrap: (tides) => decorate(tides, logging({ logger: quiet }), timing({ onSample: () => {} })),
  }),
  "a fixed table": openFixedTides,
};

/** Tide tables with one common mistake each, which the contract must detect. */
export const faulty: Implementations<TideTable> = {
  "one that drops a member": () => {
    const { port, heightAt, close } = loadSumsTides("PE-1");
    const tides = loadSumsTides("PE-1");
    // As in JavaScript, without a compiler.
    return { port, heightAt: heightAt.bind(tides), close: close.bind(tides) } as TideTable;
  },
  "one that swallows errors": () => decorate(loadSumsTides("PE-1"), swallowing),
  "one that answers in feet": () => decorate(loadSumsTides("PE-1"), inFeet),
};

const swallowing = layer<TideTable>(
  "swallowing",
  { call: (next) => (call) => (next(call) as Promise<unknown>).catch(() => Number.NaN) },
  { only: ["heightAt"] },
);

const inFeet = layer<TideTable>(
  "inFeet",
  { call: (next) => async (call) => ((await next(call)) as number) / 0.3048 },
  { only: ["heightAt"] },
);

/** A table of one day, kept in memory. */
export function openFixedTides(): TideTable {
  return new FixedTides("Port Ellery", turnsOfTheDay());
}

function turnsOfTheDay(): Tide[] {
  const turns = [
    ["high", "2026-11-23T20:04Z", 4.52],
    ["low", "2026-11-24T02:14Z", 1.39],
    ["high", "2026-11-24T08:27Z", 4.53],
    ["low", "2026-11-24T14:28Z", 1.35],
    ["high", "2026-11-24T20:49Z", 4.6],
    ["low", "2026-11-25T02:55Z", 1.3],
  ] as const;
  return turns.map(([kind, at, height]) => ({ kind, at: new Date(at), height: metres(height) }));
}
