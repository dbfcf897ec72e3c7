import type { Layer } from "../forward/call.ts";
import { openEngine } from "../forward/open/engine.ts";
import { layer } from "./layer.ts";

/**
 * Selects open forwarding: an ES `Proxy` instead of a planned class, several times slower. Arrays and typed arrays need it.
 *
 * The wrapper has exactly the subject's own keys at any time, and the subject's prototype.
 *
 * @example
 * import { decorate, logging, open } from "sleeve";
 *
 * const berths: Record<string, string> = {};
 * const watched = decorate(berths, logging(), open());
 * berths["4"] = "Marigold";
 * Object.keys(watched); // ["4"]
 */
export function open(): Layer {
  return OPEN;
}

/**
 * Wraps every object that comes out of the subject: results, elements, values of promises and iterators, and
 * arguments of callbacks. Unwraps it when it is passed back in.
 *
 * The layers of the stack apply to all of these objects. One inner object always has the same wrapper.
 * Built-in values such as dates pass unchanged. Forwarding is open, so it is several times slower.
 *
 * @example
 * import { decorate, deep, logging } from "sleeve";
 *
 * const quay = { berth: (number: number) => ({ number, clear: () => number }) };
 * decorate(quay, deep(), logging()).berth(4).clear(); // logs berth, and then clear
 */
export function deep(): Layer {
  return DEEP;
}

const OPEN: Layer = /* @__PURE__ */ layer(
  "open",
  {},
  { idempotent: true, forwarding: "open", engine: openEngine },
);
const DEEP: Layer = /* @__PURE__ */ layer(
  "deep",
  {},
  { idempotent: true, forwarding: "deep", engine: openEngine },
);
