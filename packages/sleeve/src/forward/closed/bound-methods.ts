import type { Callable } from "../../surface/member.ts";
import { type FunctionUses, mirrorFunction } from "../mirror-function.ts";
import type { OwnMethod, RawForwarder } from "./call-sites.ts";
import { Forwarding } from "./templates.ts";

/** How the functions that wrappers expose in place of one own function of their subjects are used. */
export interface OwnMethodUses {
  /** Calls it on the wrapper. */
  readonly call: RawForwarder;
  /** Calls a function of the subject on an object that is not the wrapper, through the layers. */
  readonly borrow: (fn: Callable) => (receiver: object, args: readonly unknown[]) => unknown;
  /** Constructs with a function of the subject, through the layers. */
  readonly construct: (fn: Callable) => (args: readonly unknown[], target: Callable) => object;
}

interface BoundMethod {
  readonly value: Callable;
  readonly bound: Callable;
}

/**
 * The wrapper of a subject that has own function properties. Such functions are usually closures that callers
 * extract and call without `this`, so the wrapper exposes functions that are bound to it if they are called so. Each own
 * function has one bound function per wrapper.
 */
export class BoundMethods extends Forwarding {
  readonly #bound: (BoundMethod | undefined)[] = [];

  /** Returns the accessor of the bound function for the own function at `index`. */
  static at(index: number, uses: OwnMethodUses): OwnMethod {
    return (wrapper, value) => {
      // Only wrappers of this class get such methods.
      const methods = (wrapper as BoundMethods).#bound;
      let method = methods[index];
      if (method?.value !== value) {
        method = { value, bound: bind(wrapper, value, uses) };
        methods[index] = method;
      }
      return method.bound;
    };
  }
}

/** Returns the bound function for an own function that was added after the wrapper was planned. */
export function boundMethod(
  wrapper: object,
  key: PropertyKey,
  value: Callable,
  uses: OwnMethodUses,
): Callable {
  const methods = late.get(wrapper) ?? new Map<PropertyKey, BoundMethod>();
  late.set(wrapper, methods);
  const cached = methods.get(key);
  if (cached?.value === value) return cached.bound;
  const bound = bind(wrapper, value, uses);
  methods.set(key, { value, bound });
  return bound;
}

const late = new WeakMap<object, Map<PropertyKey, BoundMethod>>();

function bind(wrapper: object, value: Callable, { call, borrow, construct }: OwnMethodUses): Callable {
  let borrowed: ReturnType<typeof borrow> | undefined;
  const uses: FunctionUses = {
    call: (receiver, args) => {
      if (receiver === wrapper || receiver === undefined || receiver === null) {
        return args.length === 1 ? call.call(wrapper, args[0]) : call.apply(wrapper, args);
      }
      borrowed ??= borrow(value);
      return borrowed(receiver, args);
    },
    construct: (args, target) => construct(value)(args, target),
  };
  return mirrorFunction(value, uses);
}
