import {
  copyList,
  getProperty,
  getPrototypeOf,
  isInheritedBy,
  isObject,
  NativePromise,
  NativeProxy,
  PrivateWeakMap,
  PrivateWeakSet,
  promiseThen,
} from "../../shared/intrinsics.ts";
import { isClass } from "../../surface/member.ts";
import { type FoundFunction, findFunction, findOnChain } from "../../surface/prototype-chain.ts";
import type { Layer, OpenOptions } from "../call.ts";
import { counterpartOf, isCopy, registerCopy } from "../copied-value.ts";
import {
  functionOfAlias,
  isAliasOf,
  isClassPrototypeOfAlias,
  isPrototypeOfAlias,
  recordOf,
} from "../wrapper-record.ts";
import { isBuiltin, isGenericHolder, isPlatformPrototype } from "./builtins.ts";
import { createProxyTarget } from "./proxy-target.ts";
import { holdsFunctionsAtMost, isValueClass } from "./value-classes.ts";
import { copyOfBuiltin, isBinary, isPlainPromise, isSafeBuffer, syncCopy } from "./value-copies.ts";

/** The side of a value: `outside` is the client's, `inside` the subject's. */
export type Side = "outside" | "inside";

/** Creates the proxy handler of an object on one side of a membrane. */
export type HandlerFactory = (membrane: Membrane, real: object, on: Side) => ProxyHandler<object>;

export type MembraneOptions = Omit<OpenOptions, "isCreatedLate">;

/**
 * Carries values between a client and the objects of a subject.
 *
 * Under `deep` and `sealed` forwarding, each side sees objects of the other through proxies. One object
 * always has the same proxy, and a proxy that returns to its own side is unwrapped. Under `open` forwarding,
 * only the subject is exchanged for its wrapper.
 *
 * Built-in values are not seen through proxies, which built-in functions would refuse. Under `deep` forwarding they pass
 * by identity. Under `sealed` forwarding each side has a copy of its own, because anything attached to a shared one would
 * be found by the other side.
 */
export class Membrane {
  readonly root: object;
  readonly forwarding: OpenOptions["forwarding"];
  readonly gate: () => void;
  readonly #layers: readonly Layer<never>[];
  #classPrototype: object | null = null;
  readonly #createHandler: HandlerFactory;
  /** Whether the layers apply to every object that comes out. */
  readonly #isDeep: boolean;
  readonly #created = new PrivateWeakSet<object>();
  /** For each side, the proxies shown there by original, and the originals by proxy. */
  readonly #wrappers = { outside: createMap(), inside: createMap() };
  readonly #originals = { outside: createMap(), inside: createMap() };
  readonly #members = new PrivateWeakMap<object, { readonly member: MemberBehind | undefined }>();
  /** Functions that call methods of the subject through its layers. */
  readonly #checked = new PrivateWeakSet<object>();
  readonly #crossings = {
    outside: { membrane: this, copiesOn: "outside" },
    inside: { membrane: this, copiesOn: "inside" },
  };
  /** Prototypes of the subject's objects, which pass unchanged when a client's object inherits from them too. */
  readonly #shared = new PrivateWeakSet<object>();

  constructor(
    root: object,
    createHandler: HandlerFactory,
    { forwarding, layers, gate = () => {} }: MembraneOptions,
  ) {
    this.root = root;
    this.forwarding = forwarding;
    this.gate = gate;
    this.#layers = layers;
    this.#createHandler = createHandler;
    // An object that represents a subject to be created has none until then.
    if (forwarding === "sealed" && !recordOf(root) && typeof root !== "function")
      this.#classPrototype = getPrototypeOf(root);
    let isDeep = false;
    for (let index = 0; index < layers.length; index++) isDeep ||= layers[index]?.forwarding === "deep";
    this.#isDeep = isDeep;
  }

  /** Returns the proxy that represents an object on a side. */
  toWrapper(real: object, on: Side): object {
    const existing = this.#wrappers[on].get(real);
    if (existing) return existing;
    const shown = this.createProxy(real, on, this.#createHandler(this, real, on));
    this.#wrappers[on].set(real, shown);
    // An object that represents a subject to be created would create it.
    if (on === "outside" && this.forwarding !== "open" && !recordOf(real)) this.#sharePrototypes(real);
    return shown;
  }

  /** Creates a further proxy of an object, for a function that is known under several keys. */
  createProxy(real: object, on: Side, handler: ProxyHandler<object>): object {
    const isInspected = on === "outside" && this.forwarding !== "sealed";
    const shown = new NativeProxy(createProxyTarget(real, isInspected ? real : undefined), handler);
    this.registerPair(shown, real, on);
    return shown;
  }

  /** Creates a handler that can be changed, for such a proxy. */
  createHandler(real: object, on: Side): ProxyHandler<object> {
    return this.#createHandler(this, real, on);
  }

  /** Registers an object and its representation on the other side. */
  registerPair(shown: object, real: object, on: Side): void {
    this.#originals[on].set(shown, real);
  }

  /** Converts a value from one side to the other. */
  toOtherSide(value: unknown, to: Side): unknown {
    if (!isObject(value)) return value;
    const known = this.#knownOnOtherSide(value, to);
    if (known) return known;
    const subject = to === "outside" && this.#subjectBehind(value);
    if (subject) return this.toWrapper(subject, to);
    if (this.forwarding === "open")
      return value === this.root && to === "outside" ? this.toWrapper(value, to) : value;
    if (isBuiltin(value)) return value;
    if (to === "outside" && this.#isOfSubject(value)) return this.toWrapper(value, to);
    if (isPlainPromise(value)) return this.#promiseToOtherSide(value, to) ?? this.toWrapper(value, to);
    return this.forwarding === "deep" ? this.#sharedValue(value, to) : this.#copiedValue(value, to);
  }

  /** Returns what represents an object that has crossed before. */
  #knownOnOtherSide(value: object, to: Side): object | undefined {
    const isSealed = this.forwarding === "sealed";
    const counterpart = isSealed ? counterpartOf(value, this, to) : undefined;
    if (counterpart) {
      this.#sync(value, counterpart, to);
      return counterpart;
    }
    const cached = this.#originals[opposite(to)].get(value) ?? this.#wrappers[to].get(value);
    if (!cached) return undefined;
    if (to === "inside" && this.#isChecked(value, cached)) return this.toWrapper(value, to);
    if (isSealed && (isCopy(value) || isCopy(cached))) this.#sync(value, cached, to);
    return cached;
  }

  /** Registers a function that calls a method through the layers. */
  registerChecked(shown: object): void {
    this.#checked.add(shown);
  }

  /**
   * Whether a function that returns to the subject must keep its layers: code of the subject would call a callback without
   * them.
   */
  #isChecked(value: object, original: object): boolean {
    if (this.forwarding !== "sealed" || typeof original !== "function" || original === this.root)
      return false;
    return (this.#checked.has(value) || this.memberBehind(original) !== undefined) && !isClass(original);
  }

  /** Returns the member of the sealed subject, or of the objects that it constructs, that a function implements. */
  memberBehind(fn: object): MemberBehind | undefined {
    if (this.forwarding !== "sealed" || fn === this.root) return undefined;
    const searched = this.#members.get(fn);
    if (searched) return searched.member;
    const { createdPrototype } = this;
    const ofRoot = findFunction(this.root, fn) ?? functionOfAlias(fn, this.root);
    const ofCreated = ofRoot ?? (createdPrototype && findFunction(createdPrototype, fn));
    const member = ofCreated && { ...ofCreated, holder: ofRoot ? this.root : (createdPrototype as object) };
    this.#members.set(fn, { member });
    return member;
  }

  /** Deep forwarding passes built-in values by identity. */
  #sharedValue(value: object, to: Side): unknown {
    const isShared = isBinary(value) || (isValueClass(value) && holdsFunctionsAtMost(value));
    return isShared ? value : this.toWrapper(value, to);
  }

  /** Sealed forwarding copies built-in values. */
  #copiedValue(value: object, to: Side): unknown {
    if (isSafeBuffer(value)) return value;
    const copy = copyOfBuiltin(value, { isClients: to === "inside" });
    if (!copy) return this.toWrapper(value, to);
    if (!registerCopy(copy, value, this.#crossings[to])) {
      this.#wrappers[to].set(value, copy);
      this.registerPair(copy, value, to);
    }
    this.#sync(value, copy, to);
    return copy;
  }

  #sync(from: object, copy: object, to: Side): void {
    syncCopy(from, copy, (value) => this.toOtherSide(value, to));
  }

  /**
   * Returns the subject if a value is an alias of it: the subject of a port or, under sealed forwarding,
   * another wrapper of it.
   */
  #subjectBehind(value: object): object | undefined {
    if (isAliasOf(value, this.root)) return this.root;
    const bare = this.forwarding === "sealed" ? recordOf(value)?.subject : undefined;
    if (!bare) return undefined;
    if (isAliasOf(bare, this.root)) return this.root;
    return this.#isOfSubject(bare) ? bare : undefined;
  }

  /**
   * Converts a prototype from one side to the other.
   *
   * - The subject sees the prototypes of a client's classes through proxies, because it may call their methods and assign
   *   to them. It sees those that it has itself unchanged, and those of the language and the host, so that `instanceof`
   *   works.
   * - A client sees the prototypes of the subject unchanged, but for those that inherit from one of the client's, unless
   *   forwarding is sealed.
   */
  prototypeToOtherSide(prototype: object, to: Side): object {
    const counterpart = this.#originals[opposite(to)].get(prototype);
    if (counterpart) return counterpart;
    if (this.forwarding === "open" || isPlatformPrototype(prototype)) return prototype;
    if (to === "inside")
      return this.#isPrototypeOfSubject(prototype) ? prototype : this.toWrapper(prototype, to);
    if (this.forwarding === "sealed" || this.clientPrototypeOf(prototype))
      return this.toWrapper(prototype, to);
    this.#shared.add(prototype);
    return prototype;
  }

  /** Whether a value of one side represents an object that belongs to the other. */
  belongsTo(side: Side, value: object): boolean {
    return this.#originals[opposite(side)].has(value);
  }

  /** Returns the nearest prototype of a client's class that an object of the subject inherits from, as the client has it. */
  clientPrototypeOf(real: object): object | undefined {
    return findOnChain(getPrototypeOf(real), (holder) => this.#originals.inside.get(holder));
  }

  /** Whether the subject has a prototype that a client's object inherits from. */
  #isPrototypeOfSubject(prototype: object): boolean {
    const { createdPrototype } = this;
    return (
      this.#shared.has(prototype) ||
      isInheritedBy(prototype, this.root) ||
      isPrototypeOfAlias(prototype, this.root) ||
      (createdPrototype !== undefined &&
        (prototype === createdPrototype || isInheritedBy(prototype, createdPrototype)))
    );
  }

  /** Records that the subject has the prototypes of one of its objects. */
  #sharePrototypes(real: object): void {
    findOnChain(getPrototypeOf(real), (holder) => {
      if (this.#shared.has(holder) || this.#originals.inside.has(holder)) return true;
      this.#shared.add(holder);
      return undefined;
    });
  }

  allToOtherSide(values: readonly unknown[], to: Side): unknown[] {
    const converted = copyList(values);
    // In place, because a new index would call a setter that a client may have added to arrays.
    for (let index = 0; index < converted.length; index++) {
      converted[index] = this.toOtherSide(converted[index], to);
    }
    return converted;
  }

  /** Runs a function on the other side. Its result or error is converted back to this side. */
  callAcross(to: Side, run: () => unknown): unknown {
    let result: unknown;
    try {
      result = run();
    } catch (error) {
      throw this.toOtherSide(error, to);
    }
    return this.toOtherSide(result, to);
  }

  /** Returns the layers on an object as seen from a side. */
  layersOn(real: object, on: Side): readonly Layer<never>[] {
    return on === "outside" && (this.#isDeep || this.#isOfSubject(real)) ? this.#layers : NO_LAYERS;
  }

  /**
   * Whether an object is the subject, was constructed by it, is the prototype of its instances, or inherits
   * from one of these. Under sealed forwarding, the instances of its class belong to it too, which have the same members, and
   * the prototypes that it inherits from, because changing them changes the subject.
   */
  #isOfSubject(real: object): boolean {
    const { createdPrototype } = this;
    const isOne = (holder: object) =>
      holder === this.root ||
      holder === createdPrototype ||
      this.#created.has(holder) ||
      isAliasOf(holder, this.root) ||
      (this.forwarding === "sealed" && this.#isClassPrototype(holder));
    if (findOnChain(real, (holder) => isOne(holder) || undefined) === true) return true;
    if (this.forwarding !== "sealed" || isBuiltin(real) || isGenericHolder(real)) return false;
    return (
      isPrototypeOfAlias(real, this.root) ||
      isInheritedBy(real, this.root) ||
      (createdPrototype !== undefined && isInheritedBy(real, createdPrototype))
    );
  }

  /** Whether an object is the prototype of the subject's class, unless the language or the host provides that. */
  #isClassPrototype(holder: object): boolean {
    return (
      (holder === this.#classPrototype || isClassPrototypeOfAlias(holder, this.root)) &&
      !isPlatformPrototype(holder)
    );
  }

  /**
   * Registers an object that the subject constructed, which need not inherit from the subject's prototype.
   */
  noteCreated(real: object): object {
    this.#created.add(real);
    return real;
  }

  /**
   * Returns the prototype of the objects that the subject constructs, if it is a class or constructor
   * function.
   */
  get createdPrototype(): object | undefined {
    if (typeof this.root !== "function") return undefined;
    const prototype: unknown = getProperty(this.root, "prototype");
    return typeof prototype === "object" && prototype !== null ? prototype : undefined;
  }

  isCreated(real: object): boolean {
    if (this.#created.has(real)) return true;
    const prototype = this.createdPrototype;
    return prototype !== undefined && isInheritedBy(prototype, real);
  }

  /** Returns the original of a sealed wrapper that layers apply to. */
  sealedSubject(value: unknown, on: Side): object | undefined {
    if (this.forwarding !== "sealed" || on !== "outside" || !isObject(value)) return undefined;
    const real = this.#originals.outside.get(value);
    return real && this.layersOn(real, on).length > 0 ? real : undefined;
  }

  /** Returns `undefined` if the object is not a promise, but only looks like one. */
  #promiseToOtherSide(promise: Promise<unknown>, to: Side): Promise<unknown> | undefined {
    const gate = to === "outside" ? this.gate : () => {};
    let resolve: (value: unknown) => void = () => {};
    let reject: (error: unknown) => void = () => {};
    const passedArgs = new NativePromise<unknown>((onResolve, onReject) => {
      resolve = onResolve;
      reject = onReject;
    });
    const across = (settle: (value: unknown) => void) => (value: unknown) => {
      try {
        gate();
        settle(this.toOtherSide(value, to));
      } catch (error) {
        reject(error);
      }
    };
    try {
      // What `then` returns may be of the other side's making, so it gets no value.
      promiseThen(promise, across(resolve) as never, across(reject) as never);
    } catch {
      return undefined;
    }
    // A promise passed to the subject may come back out and must then be the promise it represents.
    if (to === "inside") promiseThen(passedArgs, undefined, () => {});
    this.#wrappers[to].set(promise, passedArgs);
    this.registerPair(passedArgs, promise, to);
    return passedArgs;
  }
}

/** A member of the sealed subject, or of the prototype of the objects that it constructs. */
export interface MemberBehind extends FoundFunction {
  readonly holder: object;
}

const NO_LAYERS: readonly Layer<never>[] = [];

function createMap(): WeakMap<object, object> {
  return new PrivateWeakMap<object, object>();
}

export function opposite(side: Side): Side {
  return side === "outside" ? "inside" : "outside";
}
