import { bridge, facade, proxy, undoable } from "sleeve";

const TIMES = 10_000;

class Gauge {
  zero = 7;
  level(hour) {
    return (hour * 3 + this.zero) & 0xffff;
  }
  async later(hour) {
    return hour;
  }
}

function sync(gauge) {
  return new Function(
    "gauge",
    `return () => { let total = 0; for (let time = 0; time < ${TIMES}; time++) total = (total + gauge.level(time & 15)) | 0; return total; }`,
  )(gauge);
}

function later(gauge) {
  return new Function(
    "gauge",
    `return async () => { let total = 0; for (let time = 0; time < ${TIMES / 5}; time++) total = (total + (await gauge.later(time & 15))) | 0; return total; }`,
  )(gauge);
}

/** A lazy subject by hand: created at the first use, counted while calls are in flight, and not used after the end. */
class LazyByHand {
  #make;
  #gauge;
  #inFlight = 0;
  #isEnded = false;
  constructor(make) {
    this.#make = make;
  }
  #use() {
    if (this.#isEnded) throw new Error("revoked");
    this.#gauge ??= this.#make();
    return this.#gauge;
  }
  level(hour) {
    const gauge = this.#use();
    const result = gauge.level(hour);
    return result === gauge ? this : result;
  }
  later(hour) {
    const gauge = this.#use();
    this.#inFlight += 1;
    let result;
    try {
      result = gauge.later(hour);
    } catch (error) {
      this.#inFlight -= 1;
      throw error;
    }
    const leave = () => {
      this.#inFlight -= 1;
    };
    result.then(leave, leave);
    return result;
  }
}

const subsystems = () => ({
  tides: { height: async (vessel) => vessel.length },
  ledger: { book: async (vessel) => `${vessel} at 4`, free: async () => {} },
  tugs: { send: async () => 2, recall: async () => {} },
  bell: { ring: async () => "rung" },
});

const office = () =>
  facade(subsystems(), (operation) => ({
    admit: operation()
      .steps({ height: ({ tides }, { input }) => tides.height(input) })
      .steps({
        berth: undoable(
          ({ ledger }, { input }) => ledger.book(input),
          ({ ledger }, berth) => ledger.free(berth),
        ),
      })
      .steps({
        tugs: undoable(
          ({ tugs }, { berth }) => tugs.send(berth),
          ({ tugs }, sent) => tugs.recall(sent),
        ),
      })
      .steps({ rung: ({ bell }) => bell.ring() })
      .returns(({ berth }) => berth),
  }));

/** Four steps by hand, undone in reverse if a later one fails. */
class OfficeByHand {
  #all = subsystems();
  async admit(vessel) {
    const { tides, ledger, tugs, bell } = this.#all;
    const done = [];
    try {
      await tides.height(vessel);
      const berth = await ledger.book(vessel);
      done.push(() => ledger.free(berth));
      const sent = await tugs.send(berth);
      done.push(() => tugs.recall(sent));
      await bell.ring();
      return berth;
    } catch (error) {
      const failures = [];
      for (const undo of done.reverse()) {
        try {
          await undo();
        } catch (failure) {
          failures.push(failure);
        }
      }
      throw failures.length > 0 ? new AggregateError([error, ...failures], "not undone") : error;
    }
  }
}

const admit = (office) =>
  new Function(
    "office",
    `return async () => { let total = 0; for (let time = 0; time < 1000; time++) total += (await office.admit("Marigold")).length; return total; }`,
  )(office);

/** A lazy subject whose members are known, and one of which only the class is known. */
const lazy = () => proxy(() => new Gauge(), { surface: { level: "method", later: "method" } });
const lazyOpen = () => proxy(() => new Gauge(), { surface: Gauge });
const bridged = () => bridge({ first: new Gauge(), second: new Gauge() }, { start: "first" }).port;
const written = () => new LazyByHand(() => new Gauge());

export const rows = {
  "proxy.lazy.sync": { against: "a lazy subject by hand", make: () => [sync(lazy()), sync(written())] },
  "proxy.lazy.async": {
    against: "the same",
    isAsync: true,
    make: () => [later(lazy()), later(written())],
  },
  "proxy.lazy.open": { against: "the same", make: () => [sync(lazyOpen()), sync(written())] },
  "bridge.call.sync": { against: "the same", make: () => [sync(bridged()), sync(written())] },
  "bridge.call.async": {
    against: "the same",
    isAsync: true,
    make: () => [later(bridged()), later(written())],
  },
  "facade.four": {
    against: "four steps with undoing, by hand",
    isAsync: true,
    make: () => [admit(office()), admit(new OfficeByHand())],
  },
};
