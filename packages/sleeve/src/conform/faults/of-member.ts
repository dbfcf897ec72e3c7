import { keyText, once, rethrow, swallow } from "./changes.ts";
import type { Fault, Method } from "./fault.ts";

/** Faults of a method as a whole. */
export const ofMember: readonly Fault[] = [
  { name: "the member is missing", change: () => undefined },
  { name: "it does nothing", change: () => () => undefined },
  { name: "it works the first time only", change: (next) => once(next, () => undefined) },
  {
    name: "it is called twice",
    change:
      (next) =>
      (...given) => {
        swallow(() => next(...given));
        return next(...given);
      },
  },
  { name: "it lags one call behind", change: lagging },
  { name: "a call like the one before is left out", change: skippingRepeats },
  {
    name: "its subject is lost",
    change:
      (_next, self) =>
      (...given) =>
        lost(self, given),
  },
  { name: "it always fails", change: () => () => rethrow(new Error("failed")) },
];

function lagging(next: Method): Method {
  let before: { readonly value: unknown } | undefined;
  return (...given) => {
    const result = next(...given);
    const told = before ? before.value : result;
    before = { value: result };
    return told;
  };
}

function skippingRepeats(next: Method): Method {
  let last: string | undefined;
  return (...given) => {
    const key = given.map(keyText).join();
    if (key === last) return undefined;
    last = key;
    return next(...given);
  };
}

function lost(self: object, given: unknown[]): unknown {
  const method = Reflect.get(self, "method") as Method;
  return Reflect.apply(method, undefined, given);
}
