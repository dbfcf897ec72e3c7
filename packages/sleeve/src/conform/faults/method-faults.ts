import { keyText, once, rethrow, swallow } from "./changes.ts";
import type { Fault, Method } from "./fault.ts";

/** Faults in a method as a whole. */
export const ofMember: readonly Fault[] = [
  { name: "lacks the member", change: () => undefined },
  { name: "does nothing", change: () => () => undefined },
  { name: "works only the first time", change: (next) => once(next, () => undefined) },
  {
    name: "calls the subject twice",
    change:
      (next) =>
      (...given) => {
        swallow(() => next(...given));
        return next(...given);
      },
  },
  { name: "defers each call until the next one", change: deferOneCall },
  { name: "skips a repeated call", change: skippingRepeats },
  {
    name: "loses its subject",
    change:
      (_next, self) =>
      (...given) =>
        losingThis(self, given),
  },
  { name: "always fails", change: () => () => rethrow(new Error("failed")) },
];

function deferOneCall(next: Method): Method {
  let before: { readonly value: unknown } | undefined;
  return (...given) => {
    const result = next(...given);
    const returned = before ? before.value : result;
    before = { value: result };
    return returned;
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

function losingThis(self: object, given: unknown[]): unknown {
  const method = Reflect.get(self, "method") as Method;
  return Reflect.apply(method, undefined, given);
}
