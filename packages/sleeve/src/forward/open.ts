import { SleeveError } from "../errors.ts";
import { isClass, type Member, memberOf, memberOfFunction } from "../surface/member.ts";
import type { Layer, Next, Use } from "./call.ts";
import {
  harmlessPrototypeOf,
  isForEach,
  isGenericHolder,
  isOfLanguage,
  showingInstead,
  tagOf,
} from "./language.ts";
import { type Membrane, opposite, type Side } from "./membrane.ts";
import { throughLayers } from "./plan.ts";
import { agree, close } from "./shadow.ts";
import { named } from "./sites.ts";

type Fn = (...args: never[]) => unknown;

/** What the proxy of an object does on the side of a membrane that it is shown on. The object lives on the other. */
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

  /** The traps hold their handler where nobody who looks at a proxy finds it. */
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
    return this.#membrane.pass(value, this.#inward);
  }

  #wrapper(): object {
    return this.#membrane.show(this.#real, this.#on);
  }

  #read(key: string | symbol, receiver: object): unknown {
    if (this.#isSealed && key === "constructor") return harmlessPrototypeOf(this.#real)?.constructor;
    if (this.#isPrototypeKey(key)) {
      // `instanceof` and `class … extends` read it. It is shown as prototypes are, as it is; sealed, like the rest.
      const prototype: unknown = Reflect.get(this.#real, key);
      return this.#isSealed ? this.#out(prototype) : this.#membrane.original(prototype as object, this.#on);
    }
    const found = findProperty(this.#real, key);
    if (!found) return key === Symbol.toStringTag ? tagOf(this.#real) : undefined;
    if (isGenericHolder(found.holder)) return Reflect.get(found.holder, key, receiver);
    const member = memberOf(key, found.descriptor, found.holder === this.#real);
    const bare: Next = ({ wrapper }) => this.#readBare(member, wrapper);
    // An inherited method is read each time it is called, which is no use of its own.
    if (this.#layers.length === 0 || (member.kind === "method" && !member.own)) {
      return bare({ member, args: [], wrapper: receiver });
    }
    return this.#through(bare, member, "read")({ member, args: [], wrapper: receiver });
  }

  #readBare(member: Member, receiver: object): unknown {
    const value = this.#reach(() => Reflect.get(this.#real, member.key, this.#in(receiver)));
    if (typeof value !== "function" || isClass(value) || isOfLanguage(value)) return this.#out(value);
    const isMapped = this.#layers.length > 0 || this.#membrane.forwarding === "open";
    return isMapped && this.#on === "outside" ? this.#method(member, value as Fn) : this.#out(value);
  }

  #out(value: unknown): unknown {
    return this.#membrane.pass(value, this.#on);
  }

  /** Runs something on the other side; what it throws comes over, what it gives back does not yet. */
  #reach<Result>(run: () => Result): Result {
    try {
      return run();
    } catch (error) {
      throw this.#out(error);
    }
  }

  /** The function that stands for one of the object's methods, layered by the key that it is found under. */
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
    named(shown, fn);
    this.#methods.set(member.key, { fn, shown });
    this.#membrane.standFor(shown, fn, this.#on);
    return shown;
  }

  #call(fn: Fn, receiver: unknown, args: readonly unknown[]): unknown {
    const shown = isForEach(fn) ? showingInstead(this.#wrapper(), args) : args;
    const passed = this.#membrane.passAll(shown, this.#inward) as never[];
    return this.#membrane.across(this.#on, () => Reflect.apply(fn, receiver, passed));
  }

  #write(key: string | symbol, value: unknown, receiver: object): boolean {
    const inwardReceiver = this.#in(receiver);
    return this.#change(key, value, (given) => Reflect.set(this.#real, key, this.#in(given), inwardReceiver));
  }

  /** Takes a change through the layers that are on writing the member; `false` where the language refuses it. */
  #change(key: string | symbol, value: unknown, make: (value: unknown) => boolean): boolean {
    const found = findProperty(this.#real, key);
    const member = memberOf(
      key,
      found?.descriptor ?? { ...ADDED, value },
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
    agree(shadow, key, shown);
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
    named(shown, fn);
    this.#methods.set(label, { fn, shown });
    this.#membrane.standFor(shown, fn, this.#on);
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

  /** The prototypes are shown as they are, so that `instanceof` answers; sealed, only those are that give nothing away. */
  #shownPrototype(): object | null {
    // What inherits from an object of this side, as what a subclass makes does, shows that one.
    if (!this.#isSealed) return this.#membrane.original(Object.getPrototypeOf(this.#real), this.#on);
    const { madePrototype } = this.#membrane;
    return madePrototype && this.#membrane.isMade(this.#real)
      ? this.#membrane.show(madePrototype, this.#on)
      : harmlessPrototypeOf(this.#real);
  }

  #isExtensible(shadow: object): boolean {
    if (Object.isExtensible(shadow) && !Object.isExtensible(this.#real)) {
      const keys = Reflect.ownKeys(this.#real).filter((key) => this.#isListed(key));
      const shown = keys.map((key) => {
        const descriptor = Object.getOwnPropertyDescriptor(this.#real, key) as PropertyDescriptor;
        return [key, this.#shownDescriptor(descriptor, key)] as const;
      });
      close(shadow, this.#shownPrototype(), shown);
    }
    return Object.isExtensible(shadow);
  }

  #apply(receiver: object, args: readonly unknown[]): unknown {
    const fn = this.#real as Fn;
    const sealed = this.#membrane.sealedSubject(receiver, this.#on);
    const key = sealed && keyOfMethod(sealed, fn);
    // A method that came some other way is still one of the sealed subject, and goes through its layers.
    if (key !== undefined) return Reflect.apply(Reflect.get(receiver, key) as Fn, receiver, args as never[]);
    const member = memberOfFunction(fn, "function");
    // A function that is none of its methods gets a sealed subject as its clients do: as the wrapper.
    const bare: Next = (call) =>
      this.#call(
        fn,
        sealed ? this.#membrane.show(receiver, this.#inward) : this.#in(call.wrapper),
        call.args,
      );
    return throughLayers(bare, member, "call", this.#layers)({ member, args, wrapper: receiver });
  }

  #construct(args: readonly unknown[], target: object): object {
    const subject = this.#real as Fn;
    const member = memberOfFunction(subject, isClass(subject) ? "class" : "function");
    if (this.#isSealed && target !== this.#wrapper()) throw notToBeExtended(member);
    const bare: Next = (call) => {
      const passed = this.#membrane.passAll(call.args, this.#inward);
      return this.#membrane.across(this.#on, () => {
        const made = Reflect.construct(subject, passed, this.#in(call.wrapper) as Fn) as object;
        return subject === this.#membrane.root ? this.#membrane.noteMade(made) : made;
      });
    };
    const construct = throughLayers(bare, member, "construct", this.#layers);
    return construct({ member, args, wrapper: target }) as object;
  }

  /** Settles once for each member and use which layers are on it. There may be many keys, so not all are kept. */
  #through(bare: Next, member: Member, use: Use): Next {
    const kind = `${use} ${member.kind} ${member.own}`;
    const kept = this.#planned.get(member.key);
    const found = kept?.get(kind);
    if (found) return found;
    const outermost = throughLayers(bare, member, use, this.#layers);
    if (kept) kept.set(kind, outermost);
    else if (this.#planned.size < MEMBERS_KEPT) this.#planned.set(member.key, new Map([[kind, outermost]]));
    return outermost;
  }
}

const MEMBERS_KEPT = 256;

/** What a property is like that came by being written. */
const ADDED = { writable: true, enumerable: true, configurable: true };

/** The key under which a function is a method of an object. */
function keyOfMethod(root: object, fn: Fn): PropertyKey | undefined {
  for (let holder: object | null = root; holder; holder = Object.getPrototypeOf(holder)) {
    for (const key of Reflect.ownKeys(holder)) {
      if (Object.getOwnPropertyDescriptor(holder, key)?.value === fn) return key;
    }
  }
  return undefined;
}

function findProperty(
  real: object,
  key: string | symbol,
): { readonly holder: object; readonly descriptor: PropertyDescriptor } | undefined {
  for (let holder: object | null = real; holder; holder = Object.getPrototypeOf(holder)) {
    const descriptor = Reflect.getOwnPropertyDescriptor(holder, key);
    if (descriptor) return { holder, descriptor };
  }
  return undefined;
}

/** What a subclass adds would be made of the subject's own objects, behind the layers. */
function notToBeExtended({ label }: Member): SleeveError {
  return new SleeveError(
    "DENIED",
    `${label} is behind an access check, where it cannot be extended. Extend the class itself, and put the check on that.`,
  );
}
