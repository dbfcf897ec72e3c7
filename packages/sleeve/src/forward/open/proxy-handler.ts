import { SleeveError } from "../../shared/errors.ts";
import {
  apply,
  construct,
  defineProperty,
  deleteProperty,
  getOwnPropertyDescriptor,
  getProperty,
  getPrototypeOf,
  hasOwn,
  hasProperty,
  isExtensible,
  isObject,
  ownKeys,
  PrivateMap,
  PrivateWeakMap,
  preventExtensions,
  setProperty,
  setPrototypeOf,
  without,
} from "../../shared/intrinsics.ts";
import { type Callable, isClass, type Member, memberOf, memberOfFunction } from "../../surface/member.ts";
import { signatureOf } from "../../surface/member-functions.ts";
import { type FoundProperty, findFunction, findProperty } from "../../surface/prototype-chain.ts";
import type { Layer, Next } from "../call.ts";
import { copyArguments } from "../call-arguments.ts";
import { failLike } from "../called-function.ts";
import { callThroughLayers, throughLayers } from "../closed/wrapper-factory.ts";
import { isForEach, replaceCallbackSubject, tagOf } from "../collections.ts";
import { exchanged } from "../exchange.ts";
import { functionKind, mirrorFunction, withKindOf, withSignature } from "../mirror-function.ts";
import { hasGenericMethods, inertPrototypeOf, isBuiltin, isGenericHolder } from "./builtins.ts";
import { isInheritedMethod, type KnownMember, MemberPlans, type ShownFunction } from "./member-plans.ts";
import { type MemberBehind, type Membrane, opposite, type Side } from "./membrane.ts";
import { freezeTarget, syncInvariants } from "./proxy-target.ts";

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
  readonly #methods = new PrivateMap<PropertyKey, ShownFunction>();
  /** The functions that represent methods without layers, which are the same under each key. */
  readonly #unlayered = new PrivateWeakMap<Callable, ShownFunction>();
  readonly #plans: MemberPlans;
  /** Whether the wrapper represents the object as a receiver. A function that must keep its layers is an exception. */
  readonly #isReceiver: boolean;
  #ownWrapper: object | undefined;

  constructor(membrane: Membrane, real: object, on: Side) {
    this.#membrane = membrane;
    this.#real = real;
    this.#on = on;
    this.#inward = opposite(on);
    this.#layers = membrane.layersOn(real, on);
    this.#plans = new MemberPlans(real, this.#layers);
    this.#isSealed = membrane.forwarding === "sealed" && on === "outside";
    this.#isReceiver = typeof real !== "function" || real === membrane.root;
  }

  /**
   * The traps close over the handler, so that inspecting a proxy does not reveal it. They inherit nothing, so that
   * nothing added to `Object.prototype` becomes a trap.
   */
  traps(): ProxyHandler<object> {
    const real = this.#real;
    const { gate } = this.#membrane;
    const gated =
      <Args extends unknown[], Result>(trap: (...args: Args) => Result) =>
      (...args: Args): Result => {
        if (this.#on === "outside") gate();
        return apply(trap, undefined, args);
      };
    const traps: ProxyHandler<object> = {
      get: (_, key, receiver) => {
        try {
          if (this.#on === "outside") gate();
        } catch (error) {
          // A known method is still read after a revocation, so that its call fails as the method does.
          const method = this.#methods.get(key)?.shown;
          if (!method) throw error;
          return method;
        }
        return this.#read(key, receiver);
      },
      set: gated((_, key, value, receiver) => this.#write(key, value, receiver)),
      has: gated((_, key) => hasProperty(real, key) && this.#isListed(key)),
      ownKeys: gated(() => without(ownKeys(real), (key) => !this.#isListed(key))),
      getOwnPropertyDescriptor: gated((target, key) => this.#describe(target, key)),
      defineProperty: gated((target, key, descriptor) => this.#define(target, key, descriptor)),
      deleteProperty: gated((target, key) => this.#delete(target, key)),
      getPrototypeOf: gated((target) =>
        isExtensible(target) ? this.#shownPrototype() : getPrototypeOf(target),
      ),
      setPrototypeOf: gated(
        (_, prototype) =>
          !this.#isSealed &&
          setPrototypeOf(real, prototype && this.#membrane.prototypeToOtherSide(prototype, this.#inward)),
      ),
      isExtensible: gated((target) => this.#isExtensible(target)),
      preventExtensions: gated((target) => {
        this.#change("constructor", false, () => preventExtensions(real));
        return !this.#isExtensible(target);
      }),
      apply: gated((_, receiver, args) => this.#apply(receiver, args)),
      construct: gated((_, args, target) => this.#construct(args, target)),
    };
    setPrototypeOf(traps, null);
    return traps;
  }

  #in(value: unknown): unknown {
    return this.#membrane.toOtherSide(value, this.#inward);
  }

  #out(value: unknown): unknown {
    return this.#membrane.toOtherSide(value, this.#on);
  }

  #wrapper(): object {
    this.#ownWrapper ??= this.#membrane.toWrapper(this.#real, this.#on);
    return this.#ownWrapper;
  }

  /**
   * Converts the receiver of a property, which need not be this object: `Reflect.get` and `super` name another one. A
   * sealed subject is then represented by its wrapper, so that code of this object uses it as a client does.
   */
  #receiver(receiver: unknown): unknown {
    if (this.#isSealed && receiver !== this.#wrapper() && this.#membrane.sealedSubject(receiver, this.#on)) {
      return this.#membrane.toWrapper(receiver as object, this.#inward);
    }
    return this.#in(receiver);
  }

  /** Whether a property of this object is one that another, sealed receiver has too, where it passes through layers. */
  #isOfReceiver(key: PropertyKey, { descriptor }: FoundProperty, receiver: unknown): receiver is object {
    if (!this.#isSealed || receiver === this.#wrapper()) return false;
    const subject = this.#membrane.sealedSubject(receiver, this.#on);
    const same = subject && findProperty(subject, key)?.descriptor;
    if (!same) return false;
    const isAccessor = descriptor.get !== undefined || descriptor.set !== undefined;
    return isAccessor && same.get === descriptor.get && same.set === descriptor.set;
  }

  #read(key: string | symbol, receiver: object): unknown {
    if (this.#isHiddenClass(key)) return this.#readInertClass();
    if (this.#isPrototypeKey(key)) return this.#readPrototype(key);
    const isOnWrapper = this.#isReceiver && receiver === this.#wrapper();
    const unwatched = isOnWrapper ? this.#plans.unwatched(key) : undefined;
    if (unwatched) return this.#readKnown(unwatched);
    const unchanged = this.#plans.unchanged(key);
    if (unchanged?.isReadBare && isOnWrapper) return this.#readKnown(unchanged);
    if (unchanged) return this.#readMember(unchanged.member, unchanged, receiver);
    const property = findProperty(this.#real, key);
    if (!property) return this.#readUnlisted(key, receiver);
    // Without layers, the methods of arrays act on the wrapper, so that code recognises them.
    const isGeneric = this.#layers.length > 0 ? isGenericHolder : hasGenericMethods;
    if (!isGeneric(property.holder))
      return this.#readMember(this.#plans.memberAt(key, property), property, receiver);
    // An object with a `get` trap of its own may answer instead.
    const isOurs = property.descriptor.get || this.#valueOf(key) === property.descriptor.value;
    return isOurs ? getProperty(property.holder, key, receiver) : this.#readUnlisted(key, receiver);
  }

  #readInertClass(): unknown {
    const inert = inertPrototypeOf(this.#real);
    return inert ? getProperty(inert, "constructor") : undefined;
  }

  /** `instanceof` and `class … extends` read `prototype`. */
  #readPrototype(key: string | symbol): unknown {
    const prototype: unknown = getProperty(this.#real, key);
    return isObject(prototype) ? this.#membrane.prototypeToOtherSide(prototype, this.#on) : prototype;
  }

  #readMember(member: Member, property: FoundProperty, receiver: object): unknown {
    if (!this.#isListedMember(member)) return undefined;
    if (this.#isOfReceiver(member.key, property, receiver)) return getProperty(receiver, member.key);
    if (this.#layers.length === 0 || isInheritedMethod(member)) return this.#readBare(member, receiver);
    const bare: Next = ({ wrapper }) => this.#readBare(member, wrapper);
    return this.#plans.through(
      bare,
      member,
      "read",
    )({ member, args: [], wrapper: receiver, context: undefined });
  }

  /** Reads a member that is as it was, on its own wrapper, which is what most reads do. */
  #readKnown(unchanged: KnownMember): unknown {
    const { member } = unchanged;
    let value: unknown;
    try {
      value = getProperty(this.#real, member.key);
    } catch (error) {
      throw this.#out(error);
    }
    if (typeof value !== "function") return this.#out(value);
    if (unchanged.shown?.fn === value) return unchanged.shown.shown;
    const shown = this.#shown(member, value);
    const method = this.#methods.get(member.key);
    if (method?.shown === shown) unchanged.shown = method;
    return shown;
  }

  #readBare(member: Member, receiver: object): unknown {
    let value: unknown;
    try {
      value = getProperty(this.#real, member.key, this.#receiver(receiver));
    } catch (error) {
      throw this.#out(error);
    }
    return this.#shown(member, value);
  }

  #valueOf(key: string | symbol): unknown {
    return this.#reach(() => getProperty(this.#real, key));
  }

  /** Reads a property that is not listed, which only an object with a `get` trap of its own has. */
  #readUnlisted(key: string | symbol, receiver: object): unknown {
    const value = this.#reach(() => getProperty(this.#real, key, this.#receiver(receiver)));
    if (value === undefined) {
      // An object that inherits from the wrapper has no such tag, as one that inherits from the subject has none.
      return key === Symbol.toStringTag && receiver === this.#wrapper() ? tagOf(this.#real) : undefined;
    }
    const member = memberOf(key, { ...ADDED_PROPERTY, value }, true);
    const list = throughLayers(() => true, member, "list", this.#layers);
    if (list({ member, args: [], wrapper: receiver, context: undefined }) === false) return undefined;
    const read = throughLayers(() => this.#shown(member, value), member, "read", this.#layers);
    return read({ member, args: [], wrapper: receiver, context: undefined });
  }

  /** Converts the value of a member. A function is represented under its key, so that layers know what is called. */
  #shown(member: Member, value: unknown): unknown {
    if (typeof value !== "function") return this.#out(value);
    const cached = this.#on === "outside" ? this.#methods.get(member.key) : undefined;
    if (cached?.fn === value) return cached.shown;
    if (isBuiltin(value) || value === this.#real || this.#membrane.belongsTo(this.#on, value))
      return this.#out(value);
    const isNamed = this.#layers.length > 0 || this.#membrane.forwarding === "open";
    if (!isNamed || this.#on !== "outside") return this.#out(value);
    // Under open forwarding, a class keeps its identity, as other values do.
    if (this.#membrane.forwarding !== "sealed" && isClass(value)) return this.#out(value);
    return this.#method(member, value as Callable);
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
  #method(member: Member, fn: Callable): Callable {
    const cached = this.#methods.get(member.key) ?? this.#unlayered.get(fn);
    if (cached?.fn === fn) return cached.shown;
    const method: Member = { ...member, kind: "method", signature: signatureOf(fn) };
    const { gate } = this.#membrane;
    const bare: Next = ({ wrapper, args }) =>
      this.#call(fn, this.#receiverOf(fn, wrapper), copyArguments(args));
    const call = callThroughLayers(bare, method, this.#layers);
    const shown: Callable = this.#mirror(fn, {
      call: (receiver, args) => {
        try {
          gate();
        } catch (error) {
          return failLike(method, receiver, error, false);
        }
        if (call === bare) return this.#call(fn, this.#receiverOf(fn, receiver), args);
        return call({ member: method, args, wrapper: receiver, context: undefined });
      },
      construct: (args, target) => {
        gate();
        const isItself = target === fn || target === shown;
        if (this.#isSealed && !isItself) throw notExtensible(method);
        const bareConstruct: Next = (call) =>
          this.#constructWith(fn, call.args, isItself ? fn : (this.#in(call.wrapper) as Callable));
        const next = throughLayers(bareConstruct, method, "construct", this.#layers);
        return next({ member: method, args, wrapper: target, context: undefined }) as object;
      },
    });
    const representation = { fn, shown };
    this.#methods.set(member.key, representation);
    if (call === bare) this.#unlayered.set(fn, representation);
    this.#membrane.registerPair(shown, fn, this.#on);
    if (this.#layers.length > 0) this.#membrane.registerChecked(shown);
    return shown;
  }

  /** Creates a function like another one. Beyond open forwarding, its properties are seen through the membrane too. */
  #mirror(
    fn: Callable,
    uses: {
      readonly call: (receiver: object, args: unknown[]) => unknown;
      readonly construct: (args: unknown[], target: Callable) => object;
    },
  ): Callable {
    if (this.#membrane.forwarding === "open") return mirrorFunction(fn, uses);
    if (functionKind(fn) === "method" && !hasOwn(fn, "prototype")) {
      const { shown } = {
        shown(this: object, ...args: unknown[]) {
          return uses.call(this, args);
        },
      };
      if (!this.#isSealed) return withKindOf(fn, shown);
      if (!isExtensible(fn)) preventExtensions(withSignature(shown, fn));
      return withSignature(shown, fn);
    }
    const handler = this.#membrane.createHandler(fn, this.#on);
    handler.apply = (_, receiver, args) => uses.call(receiver, args);
    handler.construct = (_, args, target) => uses.construct(args, target as Callable);
    return this.#membrane.createProxy(fn, this.#on, handler) as Callable;
  }

  /** Other functions than its own receive a sealed subject as its clients do: as the wrapper. */
  #receiverOf(fn: Callable, receiver: unknown): unknown {
    if (receiver === this.#wrapper()) return this.#real;
    const sealed = this.#membrane.sealedSubject(receiver, this.#on);
    return sealed && findFunction(sealed, fn) === undefined
      ? this.#membrane.toWrapper(receiver as object, this.#inward)
      : this.#in(receiver);
  }

  /** Calls a function with a list of arguments that no other code has. */
  #call(fn: Callable, receiver: unknown, args: readonly unknown[]): unknown {
    const passedArgs = holdsNoObject(args) ? args : this.#passed(fn, args);
    let result: unknown;
    try {
      result = apply(fn, receiver, passedArgs as never);
    } catch (error) {
      throw this.#out(error);
    }
    return this.#out(result);
  }

  #passed(fn: Callable, args: readonly unknown[]): readonly unknown[] {
    const shown = isForEach(fn) ? replaceCallbackSubject(this.#wrapper(), args) : args;
    // Under open forwarding, other objects are not seen through proxies, so the wrapper may be in one of them.
    const value =
      this.#membrane.forwarding === "open" ? exchanged(shown, this.#wrapper(), this.#real) : shown;
    return this.#membrane.allToOtherSide(value, this.#inward);
  }

  #write(key: string | symbol, value: unknown, receiver: object): boolean {
    const property = findProperty(this.#real, key);
    if (property) {
      // `__proto__`, for example, acts on its receiver, which is the wrapper.
      if (property.descriptor.set && isGenericHolder(property.holder))
        return setProperty(property.holder, key, value, receiver);
      if (this.#isOfReceiver(key, property, receiver)) return setProperty(receiver, key, value);
    }
    const inwardReceiver = this.#receiver(receiver);
    return this.#change(key, value, (value) => setProperty(this.#real, key, this.#in(value), inwardReceiver));
  }

  #delete(target: object, key: string | symbol): boolean {
    if (!this.#isListed(key)) return true;
    const isDeleted = this.#change(key, undefined, () => deleteProperty(this.#real, key));
    return isDeleted && deleteProperty(target, key);
  }

  /** Passes a change through the layers on writing the member. Returns `false` if the language rejects it. */
  #change(key: string | symbol, value: unknown, make: (value: unknown) => boolean): boolean {
    const property = findProperty(this.#real, key);
    const member = memberOf(
      key,
      property?.descriptor ?? { ...ADDED_PROPERTY, value },
      !property || property.holder === this.#real,
    );
    const bare: Next = ({ args }) => this.#reach(() => make(args[0]));
    const write = throughLayers(bare, member, "write", this.#layers);
    return write({ member, args: [value], wrapper: this.#wrapper(), context: undefined }) !== false;
  }

  /** Whether a property leads to the class of a sealed object. A field of this name that holds something else does not. */
  #isHiddenClass(key: string | symbol): boolean {
    if (!this.#isSealed || key !== "constructor") return false;
    const descriptor = findProperty(this.#real, key)?.descriptor;
    return descriptor === undefined || descriptor.get !== undefined || typeof descriptor.value === "function";
  }

  #isPrototypeKey(key: string | symbol): boolean {
    return key === "prototype" && typeof this.#real === "function";
  }

  #isListed(key: string | symbol): boolean {
    if (this.#layers.length === 0 || this.#isPrototypeKey(key)) return true;
    const unchanged = this.#plans.unchanged(key);
    const property = unchanged ?? findProperty(this.#real, key);
    if (!property || isGenericHolder(property.holder)) return true;
    return this.#isListedMember(unchanged?.member ?? this.#plans.memberAt(key, property));
  }

  #isListedMember(member: Member): boolean {
    if (this.#layers.length === 0) return true;
    const list = this.#plans.through(listed, member, "list");
    return (
      list === listed || list({ member, args: [], wrapper: this.#wrapper(), context: undefined }) !== false
    );
  }

  #describe(target: object, key: string | symbol): PropertyDescriptor | undefined {
    const descriptor = getOwnPropertyDescriptor(this.#real, key);
    if (!descriptor || !this.#isListed(key)) return undefined;
    const shown = this.#shownDescriptor(descriptor, key);
    syncInvariants(target, key, shown);
    return shown;
  }

  #shownDescriptor(descriptor: PropertyDescriptor, key: string | symbol): PropertyDescriptor {
    const wrapper = this.#wrapper();
    if (hasOwn(descriptor, "value")) {
      const isSpecial = this.#isHiddenClass(key) || this.#isPrototypeKey(key);
      return {
        ...descriptor,
        value: isSpecial ? this.#read(key, wrapper) : this.#shownValue(descriptor, key),
      };
    }
    const { get, set } = descriptor;
    return {
      ...descriptor,
      ...(get && { get: this.#accessor(`get ${String(key)}`, get, () => this.#read(key, wrapper)) }),
      ...(set && {
        set: this.#accessor(`set ${String(key)}`, set, (value) => this.#write(key, value, wrapper)),
      }),
    };
  }

  /** Shows the value of a described property. Describing a property counts as reading it. */
  #shownValue(descriptor: PropertyDescriptor, key: string | symbol): unknown {
    const member = memberOf(key, descriptor, true);
    const bare: Next = () => this.#shown(member, descriptor.value);
    return throughLayers(
      bare,
      member,
      "read",
      this.#layers,
    )({ member, args: [], wrapper: this.#wrapper(), context: undefined });
  }

  #accessor<Accessor extends Callable>(
    label: string,
    fn: Accessor,
    use: (value: unknown) => unknown,
  ): Accessor {
    const cached = this.#methods.get(label);
    if (cached?.fn === fn) return cached.shown as Accessor;
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

  #define(target: object, key: string | symbol, descriptor: PropertyDescriptor): boolean {
    const { get, set } = descriptor;
    const isDefined = this.#change(key, descriptor.value, (given) =>
      defineProperty(this.#real, key, {
        ...descriptor,
        ...(hasOwn(descriptor, "value") && { value: this.#in(given) }),
        ...(get && { get: this.#in(get) as () => unknown }),
        ...(set && { set: this.#in(set) as (value: unknown) => void }),
      }),
    );
    if (isDefined && descriptor.configurable === false) this.#describe(target, key);
    return isDefined;
  }

  /** Under sealed forwarding, a client sees only prototypes that expose nothing, and those of its own classes. */
  #shownPrototype(): object | null {
    if (!this.#isSealed) {
      const prototype = getPrototypeOf(this.#real);
      return prototype && this.#membrane.prototypeToOtherSide(prototype, this.#on);
    }
    const { createdPrototype } = this.#membrane;
    return createdPrototype && this.#membrane.isCreated(this.#real)
      ? this.#membrane.toWrapper(createdPrototype, this.#on)
      : (this.#membrane.clientPrototypeOf(this.#real) ?? inertPrototypeOf(this.#real));
  }

  #isExtensible(target: object): boolean {
    if (isExtensible(target) && !isExtensible(this.#real)) {
      const keys = without(ownKeys(this.#real), (key) => !this.#isListed(key));
      freezeTarget(target, this.#shownPrototype(), keys, (key) =>
        this.#shownDescriptor(getOwnPropertyDescriptor(this.#real, key) as PropertyDescriptor, key),
      );
    }
    return isExtensible(target);
  }

  #apply(receiver: object, args: readonly unknown[]): unknown {
    const fn = this.#real as Callable;
    const sealed = this.#membrane.sealedSubject(receiver, this.#on);
    const behind = this.#isSealed ? this.#membrane.memberBehind(fn) : undefined;
    if (!sealed && behind && behind.holder !== this.#membrane.root)
      return this.#applyMember(behind, receiver, args);
    const match = sealed ? findFunction(sealed, fn) : behind;
    // A function obtained in another way still belongs to the sealed subject, and passes through its layers.
    if (match) {
      const owner = sealed ? receiver : this.#membrane.toWrapper(this.#membrane.root, this.#on);
      const { key, as } = match;
      if (as === "set") return void setProperty(owner, key, args[0]);
      const value: unknown = getProperty(owner, key);
      if (as === "get") return value;
      if (typeof value !== "function") throw new TypeError(`${String(key)} is not a function.`);
      if (value !== this.#wrapper()) return apply(value as Callable, receiver, args as never);
    }
    const member = memberOfFunction(fn, "function");
    const bare: Next = (call) => this.#call(fn, this.#receiverOf(fn, call.wrapper), copyArguments(call.args));
    return callThroughLayers(
      bare,
      member,
      this.#layers,
    )({ member, args, wrapper: receiver, context: undefined });
  }

  /** Applies a function of the objects that the subject constructs to another object, through the layers. */
  #applyMember({ key, as, holder }: MemberBehind, receiver: object, args: readonly unknown[]): unknown {
    const fn = this.#real as Callable;
    const { descriptor } = findProperty(holder, key) as FoundProperty;
    const layers = this.#membrane.layersOn(holder, this.#on);
    const member = memberOf(key, descriptor, false);
    const call = { member, args, wrapper: receiver, context: undefined };
    const bare: Next = ({ wrapper, args: passed }) =>
      this.#call(fn, this.#receiverOf(fn, wrapper), copyArguments(passed));
    return as === "value"
      ? callThroughLayers(bare, member, layers)(call)
      : throughLayers(bare, member, as === "get" ? "read" : "write", layers)(call);
  }

  #construct(args: readonly unknown[], target: object): object {
    const subject = this.#real as Callable;
    const member = memberOfFunction(subject, isClass(subject) ? "class" : "function");
    if (this.#isSealed && target !== this.#wrapper()) throw notExtensible(member);
    const bare: Next = (call) => this.#constructWith(subject, call.args, this.#in(call.wrapper) as Callable);
    const next = throughLayers(bare, member, "construct", this.#layers);
    return next({ member, args, wrapper: target, context: undefined }) as object;
  }

  #constructWith(Class: Callable, args: readonly unknown[], target: Callable): unknown {
    const passedArgs = this.#membrane.allToOtherSide(args, this.#inward);
    return this.#membrane.callAcross(this.#on, () => {
      const created = construct(Class, passedArgs, target) as object;
      return Class === this.#membrane.root ? this.#membrane.noteCreated(created) : created;
    });
  }
}

/** Whether no item of a list is an object or a function, as in most calls. */
function holdsNoObject(list: readonly unknown[]): boolean {
  for (let index = 0; index < list.length; index++) if (isObject(list[index])) return false;
  return true;
}

/** The innermost answer to whether a member is listed. */
const listed: Next = () => true;

/** The attributes of a property created by assignment. */
const ADDED_PROPERTY = { writable: true, enumerable: true, configurable: true };

/** Members added by a subclass would act on the subject's own objects, behind the layers. */
function notExtensible({ label }: Member): SleeveError {
  return new SleeveError(
    "DENIED",
    `${label} is sealed by an access check and cannot be extended. Extend the original class, and decorate the result.`,
  );
}
