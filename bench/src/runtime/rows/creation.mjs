import { decorate, decorateClass, inContext, layer, withArguments } from "sleeve";

const TIMES = 2_000;

function classOf(count) {
  const fields = Array.from({ length: count }, (_, index) => `field${index} = ${index};`);
  return new Function(
    `return class Berth { ${fields.join(" ")} deepEnoughFor(draught) { return draught < 4; } };`,
  )();
}

/** A wrapper by hand with an accessor for each field, and one wrapper for each subject. */
function written(count) {
  const accessors = Array.from(
    { length: count },
    (_, index) =>
      `get field${index}() { return this.#berth.field${index}; } set field${index}(value) { this.#berth.field${index} = value; }`,
  );
  return new Function(`
    const known = new WeakMap();
    class Wrapper {
      #berth;
      constructor(berth) { this.#berth = berth; }
      ${accessors.join("\n")}
      deepEnoughFor(draught) { return this.#berth.deepEnoughFor(draught); }
    }
    return (berth) => {
      let wrapper = known.get(berth);
      if (!wrapper) {
        wrapper = new Wrapper(berth);
        known.set(berth, wrapper);
      }
      return wrapper;
    };
  `)();
}

function creating(Berth, wrap) {
  return () => {
    let deep = 0;
    for (let time = 0; time < TIMES; time++) if (wrap(new Berth()).deepEnoughFor(3)) deep += 1;
    return deep;
  };
}

const fields = (count) => ({
  against: "accessors by hand, with a WeakMap for identity",
  make: () => [
    creating(classOf(count), (berth) => decorate(berth)),
    creating(classOf(count), written(count)),
  ],
});

export const rows = {
  "create.fields.0": fields(0),
  "create.fields.3": fields(3),
  "create.fields.10": fields(10),
  "create.fields.30": fields(30),
};

/** A class is planned once, and its instances need no wrapper. */
rows["create.class"] = {
  against: "a subclass by hand that checks the argument of the method",
  make: () => {
    const [Decorated, Written] = [classOf(3), classOf(3)];
    const Watched = decorateClass(Decorated, notNegative);
    class Subclass extends Written {
      deepEnoughFor(draught) {
        return super.deepEnoughFor(draught < 0 ? 0 : draught);
      }
    }
    return [Watched, Subclass].map((Class) => {
      const construct = new Function(
        "Class",
        `return () => { let deep = 0; for (let time = 0; time < ${TIMES * 5}; time++) if (new Class().deepEnoughFor(3)) deep += 1; return deep; }`,
      );
      return construct(Class);
    });
  },
};

const notNegative = layer(
  "notNegative",
  {
    call: (next) => (call) => next(withArguments(call, [call.args[0] < 0 ? 0 : call.args[0]])),
  },
  { only: ["deepEnoughFor"] },
);

class Ledger {
  #booked = 0;
  book(berth) {
    this.#booked = (this.#booked + berth) & 0xffff;
    return this.#booked;
  }
}

/** Wraps for a request, and calls once. */
function requests(ledgerFor) {
  return () => {
    let total = 0;
    for (let time = 0; time < TIMES * 10; time++)
      total = (total + ledgerFor({ id: time, user: "Ada Brook" }).book(time & 7)) | 0;
    return total;
  };
}

const mayBook = layer("mayBook", {
  call: (next) => (call) => {
    if (call.context.user !== "Ada Brook") throw new Error("denied");
    return next(call);
  },
});

/** The same by hand. */
function checkedByHand(ledger) {
  return (request) => ({
    book: (berth) => {
      if (request.user !== "Ada Brook") throw new Error("denied");
      return ledger.book(berth);
    },
  });
}

rows["create.request"] = {
  against: "a closure by hand that checks the user",
  make: () => [requests(inContext(new Ledger(), mayBook)), requests(checkedByHand(new Ledger()))],
};

/** Heap that a million requests leave behind, in bytes for each; by hand as well, at least one. */
rows["create.request.memory"] = {
  against: "a closure by hand that checks the user",
  measure() {
    const left = (ledgerFor) => {
      const run = requests(ledgerFor);
      run();
      gc();
      const before = process.memoryUsage().heapUsed;
      for (let time = 0; time < 50; time++) run();
      gc();
      return Math.max(1, (process.memoryUsage().heapUsed - before) / 1_000_000);
    };
    const ratio = left(inContext(new Ledger(), mayBook)) / left(checkedByHand(new Ledger()));
    return { ratio, low: ratio, high: ratio };
  },
};
