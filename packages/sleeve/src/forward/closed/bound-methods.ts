import { createMethod, type OwnMethod, type RawForwarder, type Signature } from "./forwarders.ts";
import { Forwarding } from "./templates.ts";

/**
 * The wrapper of a subject that has own function properties. Such functions are usually closures that callers
 * extract and call without `this`, so the wrapper exposes bound functions. Each own function has one bound
 * function per wrapper.
 */
export class BoundMethods extends Forwarding {
  readonly #bound: (RawForwarder | undefined)[] = [];

  /** Returns the accessor of the bound function for the own function at `index`. */
  static at(index: number, call: RawForwarder, signature: Signature): OwnMethod {
    return (wrapper) => {
      // Only wrappers of this class get such methods.
      const bound = (wrapper as BoundMethods).#bound;
      let method = bound[index];
      if (!method) {
        method = bind(wrapper, call, signature);
        bound[index] = method;
      }
      return method;
    };
  }
}

/** Returns the bound function for an own function that was added after the wrapper was planned. */
export function boundMethod(
  wrapper: object,
  key: PropertyKey,
  call: RawForwarder,
  signature: Signature,
): RawForwarder {
  const methods = late.get(wrapper) ?? new Map<PropertyKey, RawForwarder>();
  late.set(wrapper, methods);
  const method = methods.get(key) ?? bind(wrapper, call, signature);
  methods.set(key, method);
  return method;
}

const late = new WeakMap<object, Map<PropertyKey, RawForwarder>>();

function bind(wrapper: object, call: RawForwarder, signature: Signature): RawForwarder {
  return createMethod(
    (_, args) => (args.length === 1 ? call.call(wrapper, args[0]) : call.apply(wrapper, args as unknown[])),
    signature,
  );
}
