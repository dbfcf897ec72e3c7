import { createForwarder, type Forwarder, type RawForwarder } from "../../forward/closed/call-sites.ts";
import { withSignature } from "../../forward/mirror-function.ts";
import { SleeveError } from "../../shared/errors.ts";
import { findProperty } from "../../surface/prototype-chain.ts";
import { type AdapterOptions, adapter, nameOf } from "./adapter.ts";
import type { Mapping } from "./mapping.ts";
import { type Source, sourcesOf } from "./member-source.ts";
import { translatingErrors } from "./translating-errors.ts";

type AnyClass = abstract new (...args: never[]) => object;
type Concrete = new (...args: never[]) => object;
type Statics<Class> = Pick<Class, Exclude<keyof Class, "prototype">>;

/** How a target class is implemented over an outside class. */
export interface ClassMapping<Target extends AnyClass, Adaptee extends AnyClass> {
  /** Creates an outside object from the arguments of the target's constructor. */
  readonly new: (Outside: Adaptee, ...args: ConstructorParameters<Target>) => InstanceType<Adaptee>;
  /** Mapping of instance members. */
  readonly members: Mapping<InstanceType<Target>, InstanceType<Adaptee>>;
  /** Mapping of static members to those of the outside class. */
  readonly statics?: Mapping<Statics<Target>, Adaptee>;
}

/** How a target class is implemented by inheriting from an outside class. */
export interface InheritingMapping<Target extends AnyClass, Adaptee extends AnyClass> {
  /** Converts the arguments of the target's constructor to those of the outside one. */
  readonly new: (...args: ConstructorParameters<Target>) => ConstructorParameters<Adaptee>;
  /**
   * Mapping of instance members. Each function receives a view of the object with the outside class's own
   * members.
   */
  readonly members: Mapping<InstanceType<Target>, InstanceType<Adaptee>>;
  readonly statics?: Mapping<Statics<Target>, Adaptee>;
}

/**
 * Adapts an outside class to a class that the client needs: its `new`, instances and static members.
 * Instances are composed: they have the target's members and nothing of the outside ones.
 *
 * @throws {SleeveError} as {@link adapter} does
 * @example
 * import { classAdapter } from "sleeve";
 *
 * declare class Gauge { constructor(options: { id: string }); feet(): number; static list(): string[] }
 * interface Depths { metres(): number }
 * interface DepthsClass { new (station: string): Depths; stations(): string[] }
 *
 * export const PierDepths = classAdapter<DepthsClass, typeof Gauge>(Gauge, {
 *   new: (Outside, station) => new Outside({ id: station }),
 *   members: { metres: (gauge) => gauge.feet() * 0.3048 },
 *   statics: { stations: "list" },
 * });
 * const depths: Depths = new PierDepths("PE-1");
 */
export function classAdapter<Target extends AnyClass, Adaptee extends AnyClass>(
  Outside: Adaptee,
  mapping: ClassMapping<Target, Adaptee>,
  options: AdapterOptions = {},
): Target {
  const name = options.name ?? Outside.name;
  const adapt = adapter<object, object>(mapping.members as never, { ...options, name });
  const create = translatingErrors(
    createForwarder(
      () =>
        (...args) =>
          mapping.new(Outside, ...(args as ConstructorParameters<Target>)),
      SIGNATURE,
    ),
    options,
    "new",
  );
  const created = new WeakSet<object>();
  class Adapted {
    constructor(...args: unknown[]) {
      const wrapper = adapt(create.apply(Outside, args) as object);
      created.add(wrapper);
      // biome-ignore lint/correctness/noConstructorReturn: the wrapper represents an object that the outside class made
      return wrapper;
    }
    static [Symbol.hasInstance](value: object): boolean {
      return created.has(value);
    }
  }
  return withStatics(Adapted, Outside, mapping.statics, { ...options, name }) as unknown as Target;
}

/**
 * Adapts an outside class by inheritance, for classes whose internal calls must reach our members. The result
 * is a subclass of the outside class with the target's members on top. Inherited members stay visible.
 *
 * @throws {SleeveError} as {@link adapter} does
 * @example
 * import { inheritingAdapter } from "sleeve";
 *
 * declare class Printer { constructor(width: number); line(text: string): string; print(lines: string[]): string }
 * interface Log { line(text: string): string }
 *
 * export const StampedLog = inheritingAdapter<new () => Log, typeof Printer>(Printer, {
 *   new: () => [80],
 *   members: { line: (printer, text) => `Port Ellery: ${printer.line(text)}` },
 * });
 * new StampedLog().print(["Marigold at berth 4"]); // each line is stamped
 */
export function inheritingAdapter<Target extends AnyClass, Adaptee extends AnyClass>(
  Outside: Adaptee,
  mapping: InheritingMapping<Target, Adaptee>,
  options: Omit<AdapterOptions, "owns"> = {},
): (new (
  ...args: ConstructorParameters<Target>
) => InstanceType<Target> & InstanceType<Adaptee>) &
  Omit<Adaptee, "prototype"> &
  Statics<Target> {
  const name = options.name ?? Outside.name;
  const messages = nameOf({ name }, []);
  class Adapted extends (Outside as unknown as Concrete) {
    constructor(...args: unknown[]) {
      super(...(mapping.new(...(args as ConstructorParameters<Target>)) as never[]));
    }
  }
  const inherited = new InheritedMembers(Outside.prototype as object, mapping.members, options);
  for (const [key, source] of sourcesOf(mapping.members, messages))
    Object.defineProperty(Adapted.prototype, key, {
      ...inherited.descriptorOf(key, source),
      configurable: true,
      enumerable: false,
    });
  return withStatics(Adapted, Outside, mapping.statics, { ...options, name }) as never;
}

/** Members of a subclass of an outside class, over the outside class's own. */
class InheritedMembers {
  readonly #prototype: object;
  readonly #mapping: object;
  readonly #options: AdapterOptions;
  readonly #views = new WeakMap<object, object>();

  constructor(prototype: object, mapping: object, options: AdapterOptions) {
    this.#prototype = prototype;
    this.#mapping = mapping;
    this.#options = options;
  }

  descriptorOf(key: PropertyKey, source: Source): PropertyDescriptor {
    switch (source.from) {
      case "method":
        return this.#method(key, source);
      case "property":
        return this.#property(key, source);
      default:
        return this.#renamed(key, source.name);
    }
  }

  #method(key: PropertyKey, { translation, call }: Extract<Source, { from: "method" }>): PropertyDescriptor {
    const viewOf = (object: object) => this.#viewOf(object);
    const forward: RawForwarder = function (...args) {
      return translation(viewOf(this), ...args);
    };
    return { value: this.#translating(key, forward, call.named), writable: true };
  }

  #property(key: PropertyKey, source: Extract<Source, { from: "property" }>): PropertyDescriptor {
    const viewOf = (object: object) => this.#viewOf(object);
    const { get, set } = Reflect.get(this.#mapping, key) as {
      get: (view: object) => unknown;
      set?: (view: object, value: unknown) => void;
    };
    const read: RawForwarder = function () {
      return get(viewOf(this));
    };
    const getter = this.#translating(key, read, source.get.named);
    if (!set) return { get: getter };
    const write: RawForwarder = function (value) {
      set(viewOf(this), value);
    };
    return { get: getter, set: this.#translating(key, write, { name: `set ${String(key)}`, length: 1 }) };
  }

  /** A member of the outside class under another name. */
  #renamed(key: PropertyKey, name: PropertyKey): PropertyDescriptor {
    const viewOf = (object: object) => this.#viewOf(object);
    const method: unknown = findProperty(this.#prototype, name)?.descriptor.value;
    if (typeof method !== "function")
      return {
        get(this: object) {
          return Reflect.get(viewOf(this), name);
        },
        set(this: object, value: unknown) {
          Reflect.set(viewOf(this), name, value);
        },
      };
    const forward: RawForwarder = function (...args) {
      return Reflect.apply(Reflect.get(viewOf(this), name) as RawForwarder, this, args);
    };
    const signature = withSignature((() => {}) as RawForwarder, { name: String(key), length: method.length });
    return { value: this.#translating(key, forward, signature), writable: true };
  }

  #translating(key: PropertyKey, forward: RawForwarder, signature: { name: string; length: number }) {
    return translatingErrors(
      createForwarder(() => copyOf(forward), signature),
      this.#options,
      String(key),
    );
  }

  #viewOf(object: object): object {
    const view = this.#views.get(object) ?? outsideView(object, this.#prototype);
    this.#views.set(object, view);
    return view;
  }
}

const SIGNATURE = { name: "new", length: 0 };

/**
 * Returns a view of an object with the outside class's own members. Without it, a translation that calls the
 * member it replaces would call itself.
 */
function outsideView(object: object, prototype: object): object {
  const bound = new Map<unknown, unknown>();
  return new Proxy(object, {
    get(_, key) {
      const value: unknown = Object.hasOwn(object, key)
        ? Reflect.get(object, key)
        : Reflect.get(prototype, key, object);
      if (typeof value !== "function") return value;
      const existing = bound.get(value) ?? value.bind(object);
      bound.set(value, existing);
      return existing;
    },
    set(_, key, value) {
      return Object.hasOwn(object, key)
        ? Reflect.set(object, key, value)
        : Reflect.set(prototype, key, value, object);
    },
  });
}

/** Names the class after the outside one and adds the target's static members. */
function withStatics(
  Adapted: Concrete,
  Outside: AnyClass,
  statics: object | undefined,
  options: AdapterOptions,
): Concrete {
  Object.defineProperty(Adapted, "name", { value: options.name, configurable: true });
  if (!statics) return Adapted;
  const { owns: _, ...translating } = options;
  const offered = adapter<object, object>(statics as never, translating)(Outside);
  for (const key of Reflect.ownKeys(statics)) {
    if (Object.hasOwn(Function.prototype, key) || key === "prototype")
      throw reservedStatic(key, options.name);
    const value: unknown = Object.getOwnPropertyDescriptor(Object.getPrototypeOf(offered), key)?.value;
    const forwarder: Forwarder | undefined =
      typeof value === "function"
        ? createForwarder(() => copyOf(value as RawForwarder), value as never)
        : undefined;
    Object.defineProperty(
      Adapted,
      key,
      forwarder
        ? {
            configurable: true,
            writable: true,
            value: (...args: unknown[]) => forwarder.raw.apply(offered, args),
          }
        : {
            configurable: true,
            get: () => Reflect.get(offered, key),
            set: (newValue: unknown) => void Reflect.set(offered, key, newValue),
          },
    );
  }
  return Adapted;
}

function reservedStatic(key: PropertyKey, name: string | undefined): SleeveError {
  return new SleeveError(
    "BAD_MAPPING",
    `The adapter "${name}" maps the static member ${String(key)}, which every class has. Rename it in the target.`,
  );
}

/** Returns a new function with the same behaviour, whose name may be set. */
function copyOf(forward: RawForwarder): RawForwarder {
  return function (...args) {
    return forward.apply(this, args);
  };
}
