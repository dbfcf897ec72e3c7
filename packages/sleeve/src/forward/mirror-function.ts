import {
  construct,
  defineProperty,
  endsWith,
  getOwnPropertyDescriptor,
  getPrototypeOf,
  hasOwn,
  isExtensible,
  NativeProxy,
  ownKeys,
  preventExtensions,
  setPrototypeOf,
  sourceText,
} from "../shared/intrinsics.ts";
import type { Callable } from "../surface/member.ts";
import { registerLikeness } from "../surface/member-functions.ts";

/** What happens when a mirrored function is used. */
export interface FunctionUses {
  readonly call: (receiver: object, args: unknown[]) => unknown;
  readonly construct: (args: unknown[], target: Callable) => object;
}

/**
 * The kinds of functions, by what a function that represents one needs:
 * - `method`: can only be called;
 * - `constructor`: can be constructed too, and has a `prototype`;
 * - `object`: has further properties, such as those of a test double.
 */
export type FunctionKind = "method" | "constructor" | "object";

/** Returns the kind of a function, without running it. */
export function functionKind(fn: Callable): FunctionKind {
  const keys = ownKeys(fn);
  let hasPrototype = false;
  for (let index = 0; index < keys.length; index++) {
    const key = keys[index];
    if (key === "prototype") hasPrototype = true;
    else if (key !== "name" && key !== "length" && key !== "arguments" && key !== "caller") return "object";
  }
  if (!isConstructor(fn)) return "method";
  // A bound function can be constructed and has no `prototype`, which a plain function cannot imitate.
  return hasPrototype ? "constructor" : "object";
}

/** Returns whether a function can be constructed, without running it. */
export function isConstructor(value: unknown): boolean {
  // Only built-in and bound functions are constructors without a `prototype`. The test below is slow if it fails.
  const isWritten =
    typeof value === "function" &&
    !hasOwn(value, "prototype") &&
    !endsWith(sourceText(value), "{ [native code] }");
  if (isWritten) return false;
  try {
    construct(Object, [], value as Callable);
    return true;
  } catch {
    return false;
  }
}

/** Creates a function with the name, length, prototype, properties and constructibility of another. */
export function mirrorFunction(fn: Callable, uses: FunctionUses): Callable {
  switch (functionKind(fn)) {
    case "method":
      return withKindOf(
        fn,
        {
          method(this: object, ...args: unknown[]) {
            return uses.call(this, args);
          },
        }.method,
      );
    case "constructor": {
      const mirror: Callable = withKindOf(fn, function (this: object, ...args: unknown[]) {
        if (!new.target) return uses.call(this, args);
        return uses.construct(args, new.target === mirror ? fn : new.target);
      });
      return mirror;
    }
    case "object": {
      const mirror: Callable = new NativeProxy(
        fn,
        handlerOf({
          apply: (_, receiver: object, args: unknown[]) => uses.call(receiver, args),
          construct: (_, args: unknown[], target) =>
            uses.construct(args, target === mirror ? fn : (target as Callable)),
        }),
      );
      return mirror;
    }
  }
}

/** Returns a handler that inherits no traps, whatever is added to `Object.prototype`. */
function handlerOf<Target extends object>(traps: ProxyHandler<Target>): ProxyHandler<Target> {
  setPrototypeOf(traps, null);
  return traps;
}

/** The `name` and `length` of a function. */
export interface Signature {
  readonly name: string;
  readonly length: number;
}

/** Gives a function the `name` and `length` of another. */
export function withSignature<Fn extends Callable>(fn: Fn, signature: Signature): Fn {
  defineProperty(fn, "name", { value: signature.name, configurable: true });
  defineProperty(fn, "length", { value: signature.length, configurable: true });
  if (typeof signature === "function") registerLikeness(fn, signature as unknown as Callable);
  return fn;
}

/** Gives a function the signature, the class and, if it has one, the `prototype` of another. */
export function withKindOf<Fn extends Callable>(original: Callable, fn: Fn): Fn {
  withSignature(fn, original);
  const kind = getPrototypeOf(original);
  // `AsyncFunction.prototype`, for example, by which callers recognise asynchronous functions.
  if (getPrototypeOf(fn) !== kind) setPrototypeOf(fn, kind);
  // A generator function has a `prototype` as well, for the generators that it returns.
  const prototype = getOwnPropertyDescriptor(original, "prototype");
  if (prototype) defineProperty(fn, "prototype", prototype);
  if (!isExtensible(original)) preventExtensions(fn);
  return fn;
}
