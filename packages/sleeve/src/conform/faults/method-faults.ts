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
      (...args) => {
        swallow(() => next(...args));
        return next(...args);
      },
  },
  { name: "defers each call until the next one", change: deferOneCall },
  { name: "skips a repeated call", change: skippingRepeats },
  {
    name: "loses its subject",
    change:
      (_next, self) =>
      (...args) =>
        losingThis(self, args),
  },
  { name: "always fails", change: () => () => rethrow(new Error("failed")) },
];

function deferOneCall(next: Method): Method {
  let before: { readonly value: unknown } | undefined;
  return (...args) => {
    const result = next(...args);
    const returned = before ? before.value : result;
    before = { value: result };
    return returned;
  };
}

function skippingRepeats(next: Method): Method {
  let last: string | undefined;
  return (...args) => {
    const key = args.map(keyText).join();
    if (key === last) return undefined;
    last = key;
    return next(...args);
  };
}

function losingThis(self: object, args: unknown[]): unknown {
  const method = Reflect.get(self, "method") as Method;
  return Reflect.apply(method, undefined, args);
}
