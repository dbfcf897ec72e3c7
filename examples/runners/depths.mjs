/** The contract of one target and its implementations, which each example runs with another test runner. */
import fc from "fast-check";
import { adapter, decorate, timing } from "sleeve";
import { adapterOf, contract, decoratorOf } from "sleeve/conform";

/** The outside code: an echo sounder that measures in feet. */
class Sounder {
  feetAt(berth) {
    if (berth > 24) throw new Error("E24");
    return 12 + (berth % 5);
  }
  shutdown() {}
}

export class NoDepth extends Error {}

const depthsOf = adapter(
  { metresAt: (sounder, berth) => sounder.feetAt(berth) * 0.3048, close: "shutdown" },
  { owns: true, errors: (cause) => new NoDepth("no depth", { cause }) },
);

export const depths = contract("Depths", {
  surface: { metresAt: "method", close: "method" },
  arguments: { metresAt: [fc.integer({ min: 1, max: 30 })] },
  errors: [NoDepth],
  examples: { "has water at berth 4": (subject) => subject.metresAt(4) > 3 },
  refusals: { "a berth that does not exist": { call: (subject) => subject.metresAt(25), error: NoDepth } },
});

export const implementations = {
  sounder: adapterOf({
    adaptee: () => new Sounder(),
    wrap: (sounder) => depthsOf(sounder),
    owns: true,
  }),
  "timed sounder": decoratorOf({
    subject: () => depthsOf(new Sounder()),
    wrap: (sounder) => decorate(sounder, timing({ onSample: () => {} })),
  }),
};
