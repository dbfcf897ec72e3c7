import type { Layer } from "../forward/call.ts";
import { layer } from "./layer.ts";

/**
 * Asks for open forwarding: an ES `Proxy` in place of a class planned in advance. Several times slower. It shows the
 * subject's own keys exactly as they are, also when they come and go, and has its prototype for its own.
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
 * Wraps whatever comes out of the subject too: results, elements, what promises and iterators give, and what it
 * hands to callbacks; and unwraps it when it goes back in. The layers of the stack are on all of that. The same
 * inner object is the same wrapper each time. Values of the language, such as dates, pass as they are. Forwards
 * openly, so it is several times slower.
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

const OPEN: Layer = /* @__PURE__ */ layer("open", {}, { idempotent: true, forwarding: "open" });
const DEEP: Layer = /* @__PURE__ */ layer("deep", {}, { idempotent: true, forwarding: "deep" });
