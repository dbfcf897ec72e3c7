import fc from "fast-check";
import { decorate, type Layer, layer, logging, SleeveError, timing } from "sleeve";
import { describe, expect, test } from "vitest";
import { type SubjectCase, subjects } from "../forwarding/subjects.ts";

const silent = { info: () => {}, error: () => {} };
const stacks: Readonly<Record<string, () => Layer[]>> = {
  "no layers": () => [],
  "logging and timing": () => [logging({ logger: silent }), timing({ onSample: () => {} })],
  "a layer that takes the call into its hands": () => [
    layer("through", {
      call: (next) => (call) => next({ ...call }),
      read: (next) => (call) => next(call),
      write: (next) => (call) => next(call),
    }),
  ],
};

/** The outcome of a use: a value or an error. */
async function outcomeOf(use: (subject: never) => unknown, subject: object): Promise<unknown> {
  try {
    return { value: await use(subject as never) };
  } catch (error) {
    return { thrown: error };
  }
}

describe.each(Object.entries(stacks))("a wrapper with %s", (_, stack) => {
  test.each(subjects)("behaves as $name", async ({ create, uses }: SubjectCase) => {
    for (const use of uses) {
      expect(await outcomeOf(use, decorate(create(), ...stack()))).toEqual(await outcomeOf(use, create()));
    }
  });

  test("passes arguments, results, promises and errors by identity", () => {
    fc.assert(
      fc.property(fc.array(fc.anything()), fc.anything(), (args, answer) => {
        const taken: unknown[][] = [];
        const promise = Promise.resolve(answer);
        const wrapper = decorate(
          {
            take: (...given: unknown[]) => {
              taken.push(given);
              return answer;
            },
            later: () => promise,
            fail: () => {
              throw answer;
            },
          },
          ...stack(),
        );
        expect(Object.is(wrapper.take(...args), answer)).toBe(true);
        expect(taken).toHaveLength(1);
        expect(taken[0]?.length).toBe(args.length);
        expect(args.every((argument, index) => Object.is(argument, taken[0]?.[index]))).toBe(true);
        expect(wrapper.later()).toBe(promise);
        let thrown: unknown;
        try {
          wrapper.fail();
        } catch (error) {
          thrown = error;
        }
        expect(Object.is(thrown, answer)).toBe(true);
      }),
    );
  });

  test("returns itself where the subject returns itself", () => {
    class Winch {
      readonly self = this;
      haul() {
        return this;
      }
      get same() {
        return this;
      }
    }
    const wrapper = decorate(new Winch(), ...stack());
    expect(wrapper.haul()).toBe(wrapper);
    expect(wrapper.same).toBe(wrapper);
    expect(wrapper.self).toBe(wrapper);
  });

  test("uses a member that was replaced on the subject later", () => {
    const subject = { sound: () => "ping" };
    const wrapper = decorate(subject, ...stack());
    subject.sound = () => "pong";
    expect(wrapper.sound()).toBe("pong");
  });
});

test("a wrapper does not expose its subject", () => {
  class Vault {
    readonly #gold = 7;
    count() {
      return this.#gold;
    }
  }
  const wrapper = decorate(new Vault());
  expect(Reflect.ownKeys(wrapper)).toEqual([]);
  expect(Object.getPrototypeOf(wrapper)).not.toBe(Vault.prototype);
  expect(() => Vault.prototype.count.call(wrapper)).toThrow(TypeError);
});

test("layers run in the listed order, and only on the selected members", () => {
  const met: string[] = [];
  const note = (name: string) =>
    layer<{ sound(): string; mute(): void }>(
      name,
      {
        call: (next) => (call) => {
          met.push(`${name} ${call.member.label}`);
          return next(call);
        },
      },
      { only: ["sound"] },
    );
  const horn = decorate({ sound: () => "toot", mute: () => {} }, note("outer"), note("inner"));
  horn.mute();
  expect(horn.sound()).toBe("toot");
  expect(met).toEqual(["outer sound", "inner sound"]);
});

test("a stack of the same layers over the same class creates one wrapper class", () => {
  let planned = 0;
  const counted = layer("counted", {
    call: (next) => {
      planned += 1;
      return (call) => next(call);
    },
  });
  class Lamp {
    light() {}
    dim() {}
  }
  for (let value = 0; value < 50; value++) decorate(new Lamp(), counted);
  expect(planned).toBe(2);
});

test("a layer may change arguments and results of calls, reads and writes", () => {
  const doubled = layer("doubled", {
    call: (next) => (call) =>
      Number(next({ ...call, args: call.args.map((argument) => Number(argument) * 2) })) + 1,
    read: (next) => (call) => `<${String(next(call))}>`,
    write: (next) => (call) => next({ ...call, args: [`${String(call.args[0])}!`] }),
  });
  const subject = { label: "a", add: (left: number, right: number) => left + right };
  const wrapper = decorate(subject, layer("reads", { read: (next) => next }), doubled);
  wrapper.label = "b";
  expect(subject.label).toBe("b!");
  expect(wrapper.label).toBe("<b!>");
});

describe("an invalid wrapper is rejected with its name and the reason", () => {
  const named = layer("named", {});
  test.each([
    [null, "NO_SUBJECT", /decorate\(…, named\): the subject is null/],
    [undefined, "NO_SUBJECT", /: the subject is undefined/],
    [7, "NOT_AN_OBJECT", /: the subject is a number/],
  ])("around %s", (subject, code, message) => {
    expect(() => decorate(subject as never, named)).toThrow(
      expect.objectContaining({ code, message: expect.stringMatching(message) }),
    );
  });

  test("with a layer limited to an unknown member", () => {
    const misled = timing<object>({ onSample: () => {}, only: ["hieghtAt" as never] });
    const make = () => decorate({ heightAt: () => 4 }, misled);
    expect(make).toThrow(SleeveError);
    expect(make).toThrow(
      /"timing" is restricted to "hieghtAt", which the subject does not have\. Its members: heightAt/,
    );
  });
});

test("a layer may be limited to an optional member that this subject lacks", () => {
  const samples: string[] = [];
  const timed = timing<{ sound(): string; stop?(): void }>({
    onSample: ({ member }) => samples.push(member),
    only: ["sound", "stop"],
  });
  decorate({ sound: () => "toot" }, timed).sound();
  expect(samples).toEqual(["sound"]);
});

test("a member named __proto__ is forwarded like any other", () => {
  const subject: Record<string, unknown> = JSON.parse('{ "__proto__": 4, "a": 1 }');
  expect(Object.entries(decorate(subject))).toEqual([
    ["__proto__", 4],
    ["a", 1],
  ]);
});

test("objects whose keys change are wrapped correctly", () => {
  fc.assert(
    fc.property(fc.dictionary(fc.string(), fc.integer(), { maxKeys: 6 }), (subject) => {
      expect({ ...decorate(subject) }).toEqual({ ...subject });
    }),
    { numRuns: 500 },
  );
});

test("more members than call-site templates are forwarded correctly", () => {
  for (let index = 0; index < 300; index++) {
    class Fleet {
      readonly index = index;
      a(given: number) {
        return given + this.index;
      }
      b() {
        return this.index;
      }
      c() {
        return this;
      }
      d(first: number, second: number) {
        return first * second + this.index;
      }
    }
    const wrapper = decorate(new Fleet());
    expect([wrapper.a(1), wrapper.b(), wrapper.c(), wrapper.d(2, 3), wrapper.index]).toEqual([
      index + 1,
      index,
      wrapper,
      index + 6,
      index,
    ]);
  }
});

test("every case is listed", () => {
  expect([Object.keys(stacks).length, subjects.length]).toEqual([3, 13]);
});
