import { inspect } from "node:util";
import fc from "fast-check";
import {
  access,
  cached,
  decorate,
  decorateClass,
  deep,
  explain,
  guard,
  type Layer,
  layer,
  logging,
  open,
  override,
  stack,
  timing,
} from "sleeve";
import { describe, expect, test } from "vitest";

class Helm {
  readonly wheel: string = "oak";
  turn(side: "port" | "starboard"): string {
    return `hard to ${side}`;
  }
  hold(): this {
    return this;
  }
}

const quiet = { logger: { info: () => {}, error: () => {} } };
const swapSides = layer(
  "swapSides",
  {
    call: (next) => (call) =>
      next({ ...call, args: call.args.map((argument) => (argument === "port" ? "starboard" : "port")) }),
  },
  { selfInverse: true },
);
const trimmed = layer(
  "trimmed",
  { call: (next) => (call) => String(next(call)).trim() },
  { idempotent: true },
);

test("explain lists the layers on each member and use", () => {
  const helm = decorate(new Helm(), logging({ ...quiet, only: ["turn"] }), timing({ onSample: () => {} }));
  const { members, forwarding } = explain(helm);
  expect(forwarding).toBe("closed");
  expect(members).toEqual([
    { member: "wheel", kind: "property", layers: { read: [], write: [] } },
    { member: "turn", kind: "method", layers: { call: ["logging", "timing"] } },
    { member: "hold", kind: "method", layers: { call: ["timing"] } },
  ]);
  expect(explain(new Helm())).toMatchObject({ forwarding: "none" });
});

test.each([
  [[], "closed", "the members of its subject were known when it was created"],
  [[deep()], "deep", 'the layer "deep" requires it'],
  [[access(() => true)], "sealed", 'the layer "access" requires it'],
] as const)("it says how members reach the subject, and why: %#", (layers, forwarding, why) => {
  expect(explain(decorate(new Helm(), ...layers))).toMatchObject({ forwarding, why });
  expect(explain(decorate([1], open()))).toMatchObject({ forwarding: "open" });
  expect(explain(decorateClass(Helm, logging(quiet))).members.map(({ member }) => member)).toEqual([
    "Helm",
    "turn",
    "hold",
  ]);
});

test("an order that hides a layer is reported with a better one, and only where both are on a member", () => {
  const helm = new Helm();
  const bad = decorate(
    helm,
    cached({ only: ["turn"] }),
    logging(quiet),
    guard<Helm>({ hold: {} }),
    access(() => true),
  );
  const better = ["logging", "access", "guard", "cached"];
  const members = ["turn"];
  expect(explain(bad).conflicts).toEqual([
    {
      outer: "cached",
      inner: "logging",
      effect: "hides",
      text: '"logging" misses the calls that "cached" answers',
      members,
      better,
    },
    {
      outer: "cached",
      inner: "access",
      effect: "hides",
      text: '"access" misses the calls that "cached" answers',
      members,
      better,
    },
  ]);
  expect(explain(decorate(helm, logging(quiet), cached({ only: ["turn"] }))).conflicts).toEqual([]);
  expect(
    explain(decorate(helm, cached({ only: ["turn"] }), logging({ ...quiet, only: ["hold"] }))).conflicts,
  ).toEqual([]);
});

test("an explanation has a text form, which consoles print", () => {
  const helm = decorate(new Helm(), cached({ only: ["turn"] }), logging({ ...quiet, only: ["turn"] }));
  const lines = [
    "Forwarding: closed, because the members of its subject were known when it was created.",
    "  wheel  read: no layer; write: no layer",
    "  turn   call: cached > logging",
    "  hold   call: no layer",
    'Order: "logging" misses the calls that "cached" answers, on turn. Better: logging > cached.',
  ];
  expect(String(explain(helm))).toBe(lines.join("\n"));
  expect(inspect(explain(helm))).toBe(lines.join("\n"));
});

test("a repeated idempotent layer runs once, and a repeated self-inverse layer is cancelled", () => {
  const helm = new Helm();
  const once = decorate(helm, trimmed);
  expect(decorate(once, trimmed)).toBe(once);
  expect(explain(decorate(helm, logging(quiet), trimmed, trimmed)).merged).toEqual(["trimmed"]);
  expect(decorate(helm, swapSides).turn("port")).toBe("hard to starboard");
  expect(decorate(decorate(helm, swapSides), swapSides)).toBe(helm);
  const watched = decorate(helm, logging(quiet), swapSides, swapSides);
  expect(explain(watched)).toMatchObject({
    cancelled: ["swapSides"],
    members: [{}, { layers: { call: ["logging"] } }, {}],
  });
});

describe("one subject and one stack have one wrapper", () => {
  test("whether the layers are applied together, one by one, or as a stack", () => {
    const layers: Layer[] = [logging(quiet), timing({ onSample: () => {} }), trimmed, swapSides];
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...layers), { maxLength: 6 }), fc.nat(6), (given, at) => {
        // Without layers, the plain wrapper is the subject of the next stack.
        fc.pre(at > 0 && at < given.length);
        const helm = new Helm();
        const together = decorate(helm, ...given);
        expect(decorate(helm, ...given)).toBe(together);
        expect(decorate(decorate(helm, ...given.slice(at)), ...given.slice(0, at))).toBe(together);
        expect(decorate(helm, stack(...given))).toBe(together);
      }),
    );
  });

  test("and a normalized stack behaves as the full stack", () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom(trimmed, swapSides), { maxLength: 8 }), (given) => {
        const swaps = given.filter((layer) => layer === swapSides).length;
        const expected = swaps % 2 === 0 ? "hard to port" : "hard to starboard";
        expect(decorate(new Helm(), ...given).turn("port")).toBe(expected);
      }),
    );
  });
});

describe("override", () => {
  test("replaces a few members, forwards the rest, and lets a replacement call the original", () => {
    const helm = new Helm();
    const drunk = override(helm, (original) => ({
      turn: (side) => `${original.turn(side)}, hic`,
      get wheel() {
        return `${original.wheel} (sticky)`;
      },
    }));
    expect([drunk.turn("port"), drunk.wheel, helm.turn("port")]).toEqual([
      "hard to port, hic",
      "oak (sticky)",
      "hard to port",
    ]);
    expect(drunk.hold()).toBe(drunk);
    expect(drunk).toBeInstanceOf(Helm);
  });

  test("replaces own functions and writable members", () => {
    const bell = { sound: () => "ding", times: 1 };
    const loud = override(bell, (original) => ({ sound: () => original.sound().toUpperCase(), times: 7 }));
    const { sound } = loud;
    loud.times = 9;
    expect([sound(), loud.sound(), loud.times, bell.times]).toEqual(["DING", "DING", 9, 1]);
  });

  test("reports an unknown member", () => {
    expect(() => override(new Helm(), () => ({ trun: () => "" }) as never)).toThrow(
      expect.objectContaining({
        code: "NO_SUCH_MEMBER",
        message: expect.stringMatching(/a Helm has no member trun/),
      }),
    );
  });
});

test("an unusual order is reported as a warning, once", async () => {
  const warnings: unknown[] = [];
  const note = ({ message }: Error) => message.includes("steering log") && warnings.push(message);
  process.on("warning", note);
  // Each warning is reported once in a process, so the layer has a name that no other test has.
  const steeringLog = layer("steering log", { watch: () => () => undefined }, { observesAll: true });
  for (let time = 0; time < 3; time++) decorate(new Helm(), cached({ only: ["turn"] }), steeringLog);
  await new Promise((resolve) => setImmediate(resolve));
  process.off("warning", note);
  expect(warnings).toEqual([
    'The order of layers is unusual: "steering log" misses the calls that "cached" answers. See explain(wrapper).conflicts.',
  ]);
});
