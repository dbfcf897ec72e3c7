import { SleeveError } from "../../shared/errors.ts";
import { isClass, type Member, memberOf, memberOfFunction } from "../../surface/member.ts";
import { findOnChain, findProperty } from "../../surface/prototype-chain.ts";
import type { Layer, Next, Use } from "../call.ts";
import { throughLayers } from "../closed/wrapper-factory.ts";
import { withSignature } from "../mirror-function.ts";
import {
  inertPrototypeOf,
  isBuiltin,
  isForEach,
  isGenericHolder,
  replaceCallbackSubject,
  tagOf,
} from "./builtins.ts";
import { type Membrane, opposite, type Side } from "./membrane.ts";
import { freezeTarget, syncInvariants } from "./proxy-target.ts";

type Fn = (...args: never[]) => unknown;

/** The proxy handler of an object on one side of a membrane. The object itself belongs to the other side. */
export function openHandler(membrane: Membrane, real: object, on: Side): ProxyHandler<object> {
  return new OpenHandler(membrane, real, on).traps();
}

class OpenHandler {
  readonly #membrane: Membrane;
  readonly #real: object;
  readonly #on: Side;
  readonly #inward: Side;
  readonly #layers: readonly Layer<never>[];
  readonly #isSealed: boolean;
  readonly #methods = new Map<PropertyKey, { readonly fn: Fn; readonly shown: Fn }>();
  readonly #planned = new Map<string | symbol, Map<string, Next>>();

  constructor(membrane: Membrane, real: object, on: Side) {
    this.#membrane = membrane;
    this.#real = real;
    this.#on = on;
    this.#inward = opposite(on);
    this.#layers = membrane.layersOn(real, on);
    this.#isSealed = membrane.forwarding === "sealed" && on === "outside";
  }

  /** The traps close over the handler, so that inspecting a proxy does not reveal it. */
  traps(): ProxyHandler<object> {
    const real = this.#real;
    const gated =
      <Args extends unknown[], Result>(trap: (...args: Args) => Result) =>
      (...args: Args): Result => {
        if (this.#on === "outside") this.#membrane.gate();
        return trap(...args);
      };
    return {
      get: gated((_, key, receiver) => this.#read(key, receiver)),
      set: gated((_, key, value, receiver) => this.#write(key, value, receiver)),
      has: gated((_, key) => Reflect.has(real, key) && this.#isListed(key)),
      ownKeys: gated(() => Reflect.ownKeys(real).filter((key) => this.#isListed(key))),
      getOwnPropertyDescriptor: gated((shadow, key) => this.#describe(shadow, key)),
      defineProperty: gated((shadow, key, descriptor) => this.#define(shadow, key, descriptor)),
      deleteProperty: gated((shadow, key) => {
        const isDeleted = this.#change(key, undefined, () => Reflect.deleteProperty(real, key));
        return isDeleted && Reflect.deleteProperty(shadow, key);
      }),
      getPrototypeOf: gated((shadow) =>
        Object.isExtensible(shadow) ? this.#shownPrototype() : Object.getPrototypeOf(shadow),
      ),
      setPrototypeOf: gated(
        (_, prototype) =>
          !this.#isSealed && Reflect.setPrototypeOf(real, this.#in(prototype) as object | null),
      ),
      isExtensible: gated((shadow) => this.#isExtensible(shadow)),
      preventExtensions: gated((shadow) => {
        this.#change("constructor", false, () => Reflect.preventExtensions(real));
        return !this.#isExtensible(shadow);
      }),
      apply: gated((_, receiver, args) => this.#apply(receiver, args)),
      construct: gated((_, args, target) => this.#construct(args, target)),
    };
  }

  #in(value: unknown): unknown {
    return this.#membrane.toOtherSide(value, this.#inward);
  }

  #wrapper(): object {
    return this.#membrane.toWrapper(this.#real, this.#on);
  }

  #read(key: string | symbol, receiver: object): unknown {
    if (this.#isSealed && key === "constructor") return inertPrototypeOf(this.#real)?.constructor;
    if (this.#isPrototypeKey(key)) {
      // `instanceof` and `class … extends` read `prototype`. It is passed as prototypes are: unchanged, or
      // wrapped under sealed forwarding.
      const prototype: unknown = Reflect.get(this.#real, key);
      return this.#isSealed ? this.#out(prototype) : this.#membrane.unwrap(prototype as object, this.#on);
    }
    const found = findProperty(this.#real, key);
    if (!found) return key === Symbol.toStringTag ? tagOf(this.#real) : undefined;
    if (isGenericHolder(found.holder)) return Reflect.get(found.holder, key, receiver);
    const member = memberOf(key, found.descriptor, found.holder === this.#real);
    const bare: Next = ({ wrapper }) => this.#readBare(member, wrapper);
    // An inherited method is read on each call, and that read does not count as a use.
    if (this.#layers.length === 0 || (member.kind === "method" && !member.own)) {
      return bare({ member, args: [], wrapper: receiver });
    }
    return this.#through(bare, member, "read")({ member, args: [], wrapper: receiver });
  }

  #readBare(member: Member, receiver: object): unknown {
    const value = this.#reach(() => Reflect.get(this.#real, member.key, this.#in(receiver)));
    if (typeof value !== "function" || isClass(value) || isBuiltin(value)) return this.#out(value);
    const isMapped = this.#layers.length > 0 || this.#membrane.forwarding === "open";
    return isMapped && this.#on === "outside" ? this.#method(member, value as Fn) : this.#out(value);
  }

  #out(value: unknown): unknown {
    return this.#membrane.toOtherSide(value, this.#on);
  }

  /** Runs a function on the other side. Errors are converted; the result is not yet. */
  #reach<Result>(run: () => Result): Result {
    try {
      return run();
    } catch (error) {
      throw this.#out(error);
    }
  }

  /** Returns the function that represents a method, layered by the key it was found under. */
  #method(member: Member, fn: Fn): Fn {
    const kept = this.#methods.get(member.key);
    if (kept?.fn === fn) return kept.shown;
    const method: Member = { ...member, kind: "method", signature: { name: fn.name, length: fn.length } };
    const bare: Next = ({ wrapper, args }) => this.#call(fn, this.#in(wrapper), args);
    const call = throughLayers(bare, method, "call", this.#layers);
    const gate = this.#membrane.gate;
    const { shown } = {
      shown(this: object, ...args: never[]) {
        gate();
        return call({ member: method, args, wrapper: this });
      },
    };
    withSignature(shown, fn);
    this.#methods.set(member.key, { fn, shown });
    this.#membrane.registerPair(shown, fn, this.#on);
    return shown;
  }

  #call(fn: Fn, receiver: unknown, args: readonly unknown[]): unknown {
    const shown = isForEach(fn) ? replaceCallbackSubject(this.#wrapper(), args) : args;
    const passed = this.#membrane.allToOtherSide(shown, this.#inward) as never[];
    return this.#membrane.callAcross(this.#on, () => Reflect.apply(fn, receiver, passed));
  }

  #write(key: string | symbol, value: unknown, receiver: object): boolean {
    const inwardReceiver = this.#in(receiver);
    return this.#change(key, value, (given) => Reflect.set(this.#real, key, this.#in(given), inwardReceiver));
  }

  /** Passes a change through the layers on writing the member. Returns `false` if the language rejects it. */
  #change(key: string | symbol, value: unknown, make: (value: unknown) => boolean): boolean {
    const found = findProperty(this.#real, key);
    const member = memberOf(
      key,
      found?.descriptor ?? { ...ADDED_PROPERTY, value },
      !found || found.holder === this.#real,
    );
    const bare: Next = ({ args }) => this.#reach(() => make(args[0]));
    const write = throughLayers(bare, member, "write", this.#layers);
    return write({ member, args: [value], wrapper: this.#wrapper() }) !== false;
  }

  #isPrototypeKey(key: string | symbol): boolean {
    return key === "prototype" && typeof this.#real === "function";
  }

  #isListed(key: string | symbol): boolean {
    if (this.#layers.length === 0 || this.#isPrototypeKey(key)) return true;
    const found = findProperty(this.#real, key);
    if (!found || isGenericHolder(found.holder)) return true;
    const member = memberOf(key, found.descriptor, found.holder === this.#real);
    const list = this.#through(() => true, member, "list");
    return list({ member, args: [], wrapper: this.#wrapper() }) !== false;
  }

  #describe(shadow: object, key: string | symbol): PropertyDescriptor | undefined {
    const descriptor = Object.getOwnPropertyDescriptor(this.#real, key);
    if (!descriptor || !this.#isListed(key)) return undefined;
    const shown = this.#shownDescriptor(descriptor, key);
    syncInvariants(shadow, key, shown);
    return shown;
  }

  #shownDescriptor(descriptor: PropertyDescriptor, key: string | symbol): PropertyDescriptor {
    const wrapper = this.#wrapper();
    if ("value" in descriptor) return { ...descriptor, value: this.#read(key, wrapper) };
    const { get, set } = descriptor;
    return {
      ...descriptor,
      ...(get && { get: this.#accessor(`get ${String(key)}`, get, () => this.#read(key, wrapper)) }),
      ...(set && {
        set: this.#accessor(`set ${String(key)}`, set, (value) => this.#write(key, value, wrapper)),
      }),
    };
  }

  #accessor<Accessor extends Fn>(label: string, fn: Accessor, use: (value: unknown) => unknown): Accessor {
    const kept = this.#methods.get(label);
    if (kept?.fn === fn) return kept.shown as Accessor;
    const { gate } = this.#membrane;
    const shown = (value: unknown) => {
      gate();
      return use(value);
    };
    withSignature(shown, fn);
    this.#methods.set(label, { fn, shown });
    this.#membrane.registerPair(shown, fn, this.#on);
    return shown as unknown as Accessor;
  }

  #define(shadow: object, key: string | symbol, descriptor: PropertyDescriptor): boolean {
    const { get, set } = descriptor;
    const isDefined = this.#change(key, descriptor.value, (given) =>
      Reflect.defineProperty(this.#real, key, {
        ...descriptor,
        ...("value" in descriptor && { value: this.#in(given) }),
        ...(get && { get: this.#in(get) as () => unknown }),
        ...(set && { set: this.#in(set) as (value: unknown) => void }),
      }),
    );
    if (isDefined && descriptor.configurable === false) this.#describe(shadow, key);
    return isDefined;
  }

  /**
   * Prototypes pass unchanged, so that `instanceof` works. Under sealed forwarding, only prototypes that
   * expose nothing do.
   */
  #shownPrototype(): object | null {
    // An instance of a subclass inherits from an object of this side and passes through that one.
    if (!this.#isSealed) return this.#membrane.unwrap(Object.getPrototypeOf(this.#real), this.#on);
    const { createdPrototype } = this.#membrane;
    return createdPrototype && this.#membrane.isCreated(this.#real)
      ? this.#membrane.toWrapper(createdPrototype, this.#on)
      : inertPrototypeOf(this.#real);
  }

  #isExtensible(shadow: object): boolean {
    if (Object.isExtensible(shadow) && !Object.isExtensible(this.#real)) {
      const keys = Reflect.ownKeys(this.#real).filter((key) => this.#isListed(key));
      const shown = keys.map((key) => {
        const descriptor = Object.getOwnPropertyDescriptor(this.#real, key) as PropertyDescriptor;
        return [key, this.#shownDescriptor(descriptor, key)] as const;
      });
      freezeTarget(shadow, this.#shownPrototype(), shown);
    }
    return Object.isExtensible(shadow);
  }

  #apply(receiver: object, args: readonly unknown[]): unknown {
    const fn = this.#real as Fn;
    const sealed = this.#membrane.sealedSubject(receiver, this.#on);
    const key = sealed && findMethodKey(sealed, fn);
    // A method obtained in another way still belongs to the sealed subject, and passes through its layers.
    if (key !== undefined) return Reflect.apply(Reflect.get(receiver, key) as Fn, receiver, args as never[]);
    const member = memberOfFunction(fn, "function");
    // Other functions receive a sealed subject as its clients do: as the wrapper.
    const bare: Next = (call) =>
      this.#call(
        fn,
        sealed ? this.#membrane.toWrapper(receiver, this.#inward) : this.#in(call.wrapper),
        call.args,
      );
    return throughLayers(bare, member, "call", this.#layers)({ member, args, wrapper: receiver });
  }

  #construct(args: readonly unknown[], target: object): object {
    const subject = this.#real as Fn;
    const member = memberOfFunction(subject, isClass(subject) ? "class" : "function");
    if (this.#isSealed && target !== this.#wrapper()) throw notExtensible(member);
    const bare: Next = (call) => {
      const passed = this.#membrane.allToOtherSide(call.args, this.#inward);
      return this.#membrane.callAcross(this.#on, () => {
        const made = Reflect.construct(subject, passed, this.#in(call.wrapper) as Fn) as object;
        return subject === this.#membrane.root ? this.#membrane.noteCreated(made) : made;
      });
    };
    const construct = throughLayers(bare, member, "construct", this.#layers);
    return construct({ member, args, wrapper: target }) as object;
  }

  /** Decides once for each member and use which layers apply. Keys may be many, so the cache is bounded. */
  #through(bare: Next, member: Member, use: Use): Next {
    const kind = `${use} ${member.kind} ${member.own}`;
    const kept = this.#planned.get(member.key);
    const found = kept?.get(kind);
    if (found) return found;
    const outermost = throughLayers(bare, member, use, this.#layers);
    if (kept) kept.set(kind, outermost);
    else if (this.#planned.size < MAX_PLANNED_MEMBERS)
      this.#planned.set(member.key, new Map([[kind, outermost]]));
    return outermost;
  }
}

const MAX_PLANNED_MEMBERS = 256;

/** The attributes of a property created by assignment. */
const ADDED_PROPERTY = { writable: true, enumerable: true, configurable: true };

/** Returns the key under which a function is a method of an object. */
function findMethodKey(root: object, fn: Fn): PropertyKey | undefined {
  return findOnChain(root, (holder) =>
    Reflect.ownKeys(holder).find((key) => Object.getOwnPropertyDescriptor(holder, key)?.value === fn),
  );
}

/** Members added by a subclass would act on the subject's own objects, behind the layers. */
function notExtensible({ label }: Member): SleeveError {
  return new SleeveError(
    "DENIED",
    `${label} is sealed by an access check and cannot be extended. Extend the original class, and decorate the result.`,
  );
}
