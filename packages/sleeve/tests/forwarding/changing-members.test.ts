import { access, decorate, decorateClass, deep, layer, open, timing } from "sleeve";
import { expect, test } from "vitest";

/** What a member may be, and become. `at` is where it is: on the object or on its prototype. */
const FORMS = {
  absent: {},
  method: { value: (berth: number) => `booked ${berth}`, writable: true, enumerable: false },
  other: { value: (berth: number) => `reserved ${berth}`, writable: true, enumerable: false },
  text: { value: "a text", writable: true, enumerable: true },
  nothing: { value: undefined, writable: true, enumerable: true },
  getter: { get: () => "a computed text" },
  throwing: {
    get() {
      throw new RangeError("no such berth");
    },
  },
  supplier: { get: () => (berth: number) => `supplied ${berth}` },
} satisfies Record<string, PropertyDescriptor>;

const NAMES = Object.keys(FORMS) as (keyof typeof FORMS)[];
const PLACES = ["own", "inherited"] as const;
/** An ordinary key, and two that every object has. */
const KEYS = ["book", "toString", "valueOf"];

type Subject = Record<string, unknown>;

function become(
  subject: object,
  key: string,
  place: (typeof PLACES)[number],
  form: keyof typeof FORMS,
): void {
  Reflect.deleteProperty(subject, key);
  const holder = place === "own" ? subject : (Object.getPrototypeOf(subject) as object);
  Reflect.deleteProperty(Object.getPrototypeOf(subject), key);
  if (form !== "absent") Object.defineProperty(holder, key, { ...FORMS[form], configurable: true });
}

/** What a client gets: the value, what a call of it returns, or the error. */
function use(subject: Subject, key: string): unknown {
  try {
    const value = subject[key];
    if (typeof value !== "function") return { value };
    return { called: String((subject[key] as (berth: number) => unknown)(4)) };
  } catch (error) {
    return { error: (error as Error).message };
  }
}

const create = (): Subject => Object.create(class Ledger {}.prototype);
const MODES = { open: open(), deep: deep(), sealed: access(() => true) };

test.each(Object.keys(MODES) as (keyof typeof MODES)[])(
  "a member of a wrapper under %s forwarding is always what it is on the subject",
  (mode) => {
    let compared = 0;
    for (const key of KEYS)
      for (const [before, after] of pairs())
        for (const [first, second] of [
          ["own", "own"],
          ["own", "inherited"],
          ["inherited", "own"],
          ["inherited", "inherited"],
        ] as const) {
          const [bare, subject] = [create(), create()];
          const wrapper = decorate(subject, MODES[mode]);
          const seen = [bare, wrapper].map((one, index) => {
            const target = index === 0 ? bare : subject;
            become(target, key, first, before);
            const early = [use(one, key), use(one, key)];
            become(target, key, second, after);
            return [early, use(one, key), use(one, key), key in one];
          });
          // `valueOf` of every object returns the object, whose text differs under sealed forwarding.
          expect(seen[1], `${key}: ${first} ${before}, then ${second} ${after}`).toEqual(seen[0]);
          compared += 1;
        }
    expect(compared).toBe(KEYS.length * NAMES.length ** 2 * 4);
  },
);

function* pairs() {
  for (const before of NAMES) for (const after of NAMES) yield [before, after] as const;
}

test("a getter that takes the place of an allowed method is not run without a check", () => {
  for (const place of PLACES) {
    const subject = create();
    become(subject, "book", "inherited", "method");
    const uses: string[] = [];
    const checked = decorate(
      subject,
      access(({ use }) => {
        uses.push(use);
        return use === "call";
      }),
    );
    expect([use(checked, "book"), use(checked, "book")]).toEqual(Array(2).fill({ called: "booked 4" }));
    let runs = 0;
    Reflect.deleteProperty(Object.getPrototypeOf(subject), "book");
    Object.defineProperty(place === "own" ? subject : Object.getPrototypeOf(subject), "book", {
      configurable: true,
      get: () => {
        runs += 1;
        return "the secret";
      },
    });
    expect(use(checked, "book")).toMatchObject({ error: expect.stringContaining("read book") });
    expect([runs, uses]).toEqual([0, ["call", "call", "read"]]);
  }
});

test("a method of a decorated class that is replaced later takes effect", () => {
  let compared = 0;
  for (const form of NAMES) {
    const classes = [0, 1].map(() => {
      class Ledger {
        book(berth: number): string {
          return `booked ${berth}`;
        }
      }
      return Ledger;
    });
    const [Bare, Subject] = classes as [(typeof classes)[0] & object, (typeof classes)[0] & object];
    const Watched = decorateClass(Subject, timing({ onSample() {} }));
    const [bare, watched] = [new Bare(), new Watched()] as unknown as [Subject, Subject];
    expect(use(watched, "book")).toEqual(use(bare, "book"));
    for (const Class of [Bare, Subject]) {
      Reflect.deleteProperty(Class.prototype, "book");
      if (form !== "absent")
        Object.defineProperty(Class.prototype, "book", { ...FORMS[form], configurable: true });
    }
    const [expected, actual] = [use(bare, "book"), use(watched, "book")];
    // The wrapper still has a method, so a call fails where a read of the subject gives another value.
    if (expected !== undefined && "value" in (expected as object)) expect(actual).toHaveProperty("error");
    else expect(actual).toEqual(expected);
    compared += 1;
  }
  expect(compared).toBe(NAMES.length);
});

test("instances of a decorated class have the fields of the class, layered where a layer wants them", () => {
  const reads: string[] = [];
  const reading = layer(
    "reading",
    {
      read: (next, member) => (call) => {
        reads.push(member.label);
        return next(call);
      },
    },
    { only: ["depth"] },
  );
  class Berth {
    depth = 4;
    vessel: string | undefined = "Marigold";
    leave = (): void => {
      this.vessel = undefined;
    };
  }
  const Watched = decorateClass(Berth, reading as never);
  for (const berth of [new Watched(), new Watched()]) {
    expect(Object.keys(berth)).toEqual(["depth", "vessel", "leave"]);
    berth.leave();
    expect([berth.depth, berth.vessel, Object.hasOwn(berth, "depth")]).toEqual([4, undefined, true]);
  }
  expect(reads).toEqual(["depth", "depth"]);
});
