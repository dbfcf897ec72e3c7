import { decorate, layer } from "sleeve";

const TIMES = 200_000;

/**
 * Its method only reads. If it wrote a field that the next call reads, the loops would measure the store forwarding of the processor,
 * which depends on the widths that the compiler chooses.
 */
class Winch {
  gear = 7;
  haul(metres) {
    return (metres * this.gear + metres) & 0xffff;
  }
}

/** A member under three layers: one that counts, one that refuses, one that bounds the result. */
export function threeLayers() {
  const tally = { calls: 0, failures: 0 };
  const layered = decorate(
    new Winch(),
    layer("counted", {
      watch: () => () => {
        tally.calls += 1;
        return ({ status }) => {
          if (status === "threw") tally.failures += 1;
        };
      },
    }),
    layer("positive", {
      call: (next) => (call) => {
        if (call.args[0] < 0) throw new RangeError("A winch hauls in only.");
        return next(call);
      },
    }),
    layer("bounded", { call: (next) => (call) => Math.min(next(call), 60_000) }),
  );
  const fused = new FusedWinch(new Winch(), { calls: 0, failures: 0 });
  return [() => haulLayered(layered), () => haulFused(fused)];
}

class FusedWinch {
  #winch;
  #tally;
  constructor(winch, tally) {
    this.#winch = winch;
    this.#tally = tally;
  }
  haul(metres) {
    this.#tally.calls += 1;
    try {
      if (metres < 0) throw new RangeError("A winch hauls in only.");
      return Math.min(this.#winch.haul(metres), 60_000);
    } catch (error) {
      this.#tally.failures += 1;
      throw error;
    }
  }
}

// The two clients are equal but separate, so that each is optimised for its subject.
function haulLayered(winch) {
  let total = 0;
  for (let time = 0; time < TIMES; time++) total = (total + winch.haul(time & 7)) | 0;
  return total;
}

function haulFused(winch) {
  let total = 0;
  for (let time = 0; time < TIMES; time++) total = (total + winch.haul(time & 7)) | 0;
  return total;
}
