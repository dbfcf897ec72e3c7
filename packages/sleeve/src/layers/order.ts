import type { Layer, OrderConflict } from "../forward/call.ts";

type AnyLayer = Layer<never>;

interface OrderRule {
  readonly effect: OrderConflict["effect"];
  readonly applies: (outer: AnyLayer, inner: AnyLayer) => boolean;
  readonly describe: (outer: string, inner: string) => string;
}

/** The orders of two layers on one member that hide calls from the inner one, or repeat or limit them in ways that few want. */
const RULES: readonly OrderRule[] = [
  {
    effect: "hides",
    applies: (outer, inner) => outer.mayShortCircuit === true && inner.observesAll === true,
    describe: (outer, inner) => `"${inner}" misses the calls that "${outer}" answers`,
  },
  {
    effect: "hides",
    applies: (outer, inner) => outer.rejects === true && inner.watches === true,
    describe: (outer, inner) => `"${inner}" misses the calls that "${outer}" refuses`,
  },
  {
    effect: "repeats",
    applies: (outer, inner) => outer.repeats === "results" && inner.mayShortCircuit === true,
    describe: (outer, inner) => `"${outer}" gets the same result from "${inner}" again until it expires`,
  },
  {
    effect: "repeats",
    applies: (outer, inner) => outer.repeats === "errors" && inner.rejects === true,
    describe: (outer, inner) => `"${outer}" repeats calls that "${inner}" refuses`,
  },
  {
    effect: "repeats",
    applies: (outer, inner) => outer.repeats === "results" && inner.rejects === true,
    describe: (outer, inner) => `"${inner}" checks each attempt of "${outer}"`,
  },
  {
    effect: "repeats",
    applies: (outer, inner) => outer.repeats === "errors" && inner.repeats !== undefined,
    describe: (outer, inner) => `"${outer}" repeats all attempts of "${inner}"`,
  },
  {
    effect: "repeats",
    applies: (outer, inner) => outer.repeats !== undefined && inner.watches === true,
    describe: (outer, inner) => `"${inner}" sees each attempt of "${outer}" as a call`,
  },
  {
    effect: "limits",
    applies: (outer, inner) => outer.limits === true && inner.repeats !== undefined,
    describe: (outer, inner) => `"${outer}" limits all attempts of "${inner}" together`,
  },
];

/** Returns what is wrong with an order of two layers, if anything is. */
export function conflictBetween(outer: AnyLayer, inner: AnyLayer): OrderConflict | undefined {
  for (const { effect, applies, describe } of RULES) {
    if (applies(outer, inner)) return { effect, text: describe(outer.name, inner.name) };
  }
  return undefined;
}

/** Returns layers in the recommended order. A layer of which nothing is known stays next to the one before it. */
export function recommendedOrder(layers: readonly AnyLayer[]): readonly AnyLayer[] {
  let last = 0;
  const ranked = layers.map((layer) => {
    last = rankOf(layer) ?? last;
    return { layer, rank: last };
  });
  return ranked.sort((one, candidate) => one.rank - candidate.rank).map(({ layer }) => layer);
}

function rankOf(layer: AnyLayer): number | undefined {
  if (layer.watches) return 0;
  if (layer.rejects) return layer.forwarding === "sealed" ? 1 : 2;
  if (layer.observesAll) return 0;
  if (layer.mayShortCircuit) return 3;
  if (layer.repeats) return layer.repeats === "results" ? 4 : 5;
  return layer.limits ? 6 : undefined;
}
