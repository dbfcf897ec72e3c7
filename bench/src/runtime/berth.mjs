/** The subject of the benchmark of creation. */
export class Berth {
  #depth;
  constructor(depth) {
    this.#depth = depth;
  }
  deepEnoughFor(draught) {
    return this.#depth >= draught;
  }
}

export class HandWritten {
  #berth;
  constructor(berth) {
    this.#berth = berth;
  }
  deepEnoughFor(draught) {
    return this.#berth.deepEnoughFor(draught);
  }
}
