import { decorate } from "sleeve";
import { Berth, HandWritten } from "./berth.mjs";

const TIMES = 20_000;

/** Wraps new objects of a known class. Each subject is wrapped once. */
export function creation() {
  const run = (wrap) => () => {
    let deep = 0;
    for (let time = 0; time < TIMES; time++) if (wrap(new Berth(4)).deepEnoughFor(3)) deep += 1;
    return deep;
  };
  return [run((berth) => decorate(berth)), run((berth) => new HandWritten(berth))];
}
