/** What wrappers are made around, where it is the making that is measured. */
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
