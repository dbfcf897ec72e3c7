import { decorate } from "sleeve";
import { byGenerated, byProxy, contender, wrapByHand } from "../contender.mjs";

const rowOf = (size, times, kind) => ({
  against: "hand-written",
  make: async () => [
    await contender(size, "sleeve", (subject) => decorate(subject), times, kind),
    await contender(size, "hand-written", wrapByHand, times, kind),
  ],
});

const proxyRow = (size, times) => ({
  against: `an ES Proxy, ${size.classes === 1 ? "one class" : `${size.classes} classes`}`,
  make: async () => [
    await contender(size, "sleeve", (subject) => decorate(subject), times),
    await contender(size, "es-proxy", byProxy, times),
  ],
});

/** Forwarders that the command has generated, in Node.js only, which runs the command. */
const generatedRow = (size, times, kind) => ({
  against: "hand-written",
  isOfNode: true,
  make: async () => {
    // Not for the bundler of the page.
    const { loadGenerated } = await import(
      /* @vite-ignore */ new URL("../generated.mjs", import.meta.url).href
    );
    return [
      await contender(size, "generated", byGenerated, times, kind, loadGenerated),
      await contender(size, "hand-written", wrapByHand, times, kind),
    ];
  },
});

const [one, forty, crowd] = [1, 40, 150].map((classes) => ({ classes, members: 12 }));

/** Calls without layers: each member in a loop of its own, or twelve in a row. */
export const rows = {
  "forward.runtime.single": rowOf(one, 100_000, "clients"),
  "forward.es-proxy": proxyRow(one, 100_000),
  "forward.runtime.population": rowOf(forty, 4_000, "clients"),
  "forward.es-proxy.population": proxyRow(forty, 4_000),
  "forward.runtime.crowd": rowOf(crowd, 1_000, "clients"),
  "forward.runtime.crowd.names": rowOf({ ...crowd, areNamesOwn: true }, 1_000, "clients"),
  "forward.runtime.row": rowOf(one, 50_000, "rows"),
  "forward.runtime.row.population": rowOf(forty, 2_000, "rows"),
  "forward.generated.single": generatedRow(one, 100_000, "clients"),
  "forward.generated.population": generatedRow(forty, 4_000, "clients"),
  "forward.generated.row": generatedRow(one, 50_000, "rows"),
};
