import { Forwarding } from "./forwarding.generated.ts";
import { type BareSite, named, type OwnMethod, type Signature } from "./sites.ts";

/**
 * A wrapper of a subject that holds functions of its own: closures as a rule, which are taken out and called
 * without `this`. So what it shows in their place is bound to it. One wrapper shows one function for one of them.
 */
export class OwnMethods extends Forwarding {
  readonly #bound: (BareSite | undefined)[] = [];

  /** Gives the wrappers of one plan the function in place of the `index`th of their subjects' own. */
  static at(index: number, call: BareSite, signature: Signature): OwnMethod {
    return (wrapper) => {
      // Such a method is planned for wrappers of this class only.
      const bound = (wrapper as OwnMethods).#bound;
      let method = bound[index];
      if (!method) {
        method = bind(wrapper, call, signature);
        bound[index] = method;
      }
      return method;
    };
  }
}

/** The same for a function that came after the wrapper was planned. */
export function boundMethod(
  wrapper: object,
  key: PropertyKey,
  call: BareSite,
  signature: Signature,
): BareSite {
  const methods = late.get(wrapper) ?? new Map<PropertyKey, BareSite>();
  late.set(wrapper, methods);
  const method = methods.get(key) ?? bind(wrapper, call, signature);
  methods.set(key, method);
  return method;
}

const late = new WeakMap<object, Map<PropertyKey, BareSite>>();

/** Like most of what it stands for, a method cannot be constructed. */
function bind(wrapper: object, call: BareSite, signature: Signature): BareSite {
  const { bound } = {
    bound(...args: unknown[]) {
      return args.length === 1 ? call.call(wrapper, args[0]) : call.apply(wrapper, args);
    },
  };
  return named(bound, signature);
}
