import { decorate } from "sleeve";

const TIMES = 20_000;

class Berth {
  #depth = 4;
  deepEnoughFor(draught) {
    return this.#depth >= draught;
  }
}

class HandWritten {
  #berth;
  constructor(berth) {
    this.#berth = berth;
  }
  deepEnoughFor(draught) {
    return this.#berth.deepEnoughFor(draught);
  }
}

/** Wraps a new object of a class that is known already. Each subject is wrapped once. */
export function creation() {
  const run = (wrap) => () => {
    let deep = 0;
    for (let time = 0; time < TIMES; time++) if (wrap(new Berth()).deepEnoughFor(3)) deep += 1;
    return deep;
  };
  return [run((berth) => decorate(berth)), run((berth) => new HandWritten(berth))];
}
