import { SleeveError } from "../errors.ts";
import { accessor, type WrapperClass, wrapperClass } from "../forward/plan.ts";
import { type Shape, shapeOf } from "../forward/shape.ts";
import { type BareSite, named, type Site, type Translation, translationSite } from "../forward/sites.ts";
import { describe, requireObject } from "../forward/subject.ts";
import type { Mapping } from "./mapping.ts";

export interface AdapterOptions {
  /** What messages call the adapter. The members it offers, unless given. */
  readonly name?: string;
  /**
   * Takes every error on its way out, thrown or rejected, and gives back the one for the client. An error that
   * is fit for the client already is given back as it came.
   */
  readonly errors?: (error: unknown, member: string) => unknown;
}

/** Makes wrappers that offer `Target` and have it from an `Adaptee`. */
export type Adapter<Target, Adaptee> = (adaptee: Adaptee) => Target;

/**
 * Adapts outside objects to the interface that the client needs.
 *
 * Each member of the target is had from the adaptee by the name of a member of the same shape, or by a function
 * that gets the adaptee first. The wrapper shows the target's members and nothing of the adaptee. An adapter only
 * translates: what else a call needs is put around it with {@link decorate}.
 *
 * @throws {SleeveError} `BAD_MAPPING`; when an adaptee is given, `NO_SUBJECT`, `NOT_AN_OBJECT`, and
 *   `NO_SUCH_MEMBER` where the mapping names a member that this adaptee lacks
 * @example
 * import { adapter } from "sleeve";
 *
 * interface Lamp { readonly isLit: boolean; light(): void; brighten(percent: number): Promise<void> }
 * declare class MastLight { lit: boolean; switchOn(): void; level(of255: number, done: () => void): void }
 *
 * const mastLamp = adapter<Lamp, MastLight>({
 *   isLit: "lit",
 *   light: "switchOn",
 *   brighten: (mast, percent) => new Promise((done) => mast.level(Math.round(percent * 2.55), done)),
 * });
 * export const lamp: Lamp = mastLamp(new MastLight());
 */
export function adapter<Target extends object, Adaptee extends object>(
  mapping: Mapping<Target, Adaptee>,
  options: AdapterOptions = {},
): Adapter<Target, Adaptee> {
  const keys = Reflect.ownKeys(mapping);
  const name = options.name
    ? `The adapter "${options.name}"`
    : `The adapter of ${keys.map(String).join(", ")}`;
  const entries = keys.map((key) => [key, sourceOf(key, mapping, name)] as const);
  const classes = new WeakMap<Shape, WrapperClass>();

  return (adaptee) => {
    const wrapped = requireObject(adaptee, name, "adaptee");
    const shape = shapeOf(wrapped);
    let Wrapper = classes.get(shape);
    if (!Wrapper) {
      const offered = entries.map(([key, source]) => [
        key,
        descriptorOf(key, source, shape, wrapped, name, options),
      ]);
      Wrapper = wrapperClass(Object.prototype, Object.fromEntries(offered));
      classes.set(shape, Wrapper);
    }
    // The mapping has a source for every member that its type, and so the target, requires.
    return new Wrapper(wrapped) as Target;
  };
}

/** Where a member of the target comes from. */
type Source =
  | { readonly from: "name"; readonly name: PropertyKey }
  | { readonly from: "method"; readonly call: Site }
  | { readonly from: "property"; readonly get: Site; readonly set: Site | undefined };

function sourceOf(key: PropertyKey, mapping: object, adapterName: string): Source {
  const label = String(key);
  const entry: unknown = Reflect.get(mapping, key);
  if (typeof entry === "string" || typeof entry === "symbol") return { from: "name", name: entry };
  if (typeof entry === "function") {
    const signature = { name: label, length: Math.max(0, entry.length - 1) };
    return { from: "method", call: translationSite(entry as Translation, signature) };
  }
  const { get, set } = (entry ?? {}) as { get?: unknown; set?: unknown };
  if (typeof get !== "function") {
    throw new SleeveError(
      "BAD_MAPPING",
      `${adapterName} maps ${label} to ${entry === null ? "null" : `a value of type ${typeof entry}`}. Map it to ` +
        "the name of a member of the adaptee, to a function, or to { get, set }.",
    );
  }
  return {
    from: "property",
    get: translationSite(get as Translation, { name: `get ${label}`, length: 0 }),
    set:
      typeof set === "function"
        ? translationSite(set as Translation, { name: `set ${label}`, length: 1 })
        : undefined,
  };
}

function descriptorOf(
  key: PropertyKey,
  source: Source,
  shape: Shape,
  adaptee: object,
  adapterName: string,
  { errors }: AdapterOptions,
): PropertyDescriptor {
  const member = String(key);
  const translated = (site: Site) => (errors ? translatingErrors(site, errors, member) : site.shown);
  const method = (call: Site) => ({ value: translated(call), configurable: true, writable: true });
  const property = (read: Site | undefined, write: Site | undefined) =>
    accessor(read && translated(read), write && translated(write), { configurable: true, enumerable: true });
  switch (source.from) {
    case "method":
      return method(source.call);
    case "property":
      return property(source.get, source.set);
    case "name": {
      const bare = shape.members.get(source.name);
      if (!bare) throw lackingMember(member, source.name, adaptee, adapterName);
      return bare.call ? method(bare.call) : property(bare.read?.(), bare.write);
    }
  }
}

function translatingErrors(
  { shown, inner }: Site,
  errors: NonNullable<AdapterOptions["errors"]>,
  member: string,
): BareSite {
  const refuse = (error: unknown): never => {
    throw errors(error, member);
  };
  return named(function (...args) {
    try {
      const result = inner.apply(this, args);
      return result instanceof Promise ? result.then(undefined, refuse) : result;
    } catch (error) {
      return refuse(error);
    }
  }, shown);
}

function lackingMember(member: string, name: PropertyKey, adaptee: object, adapterName: string): SleeveError {
  return new SleeveError(
    "NO_SUCH_MEMBER",
    `${adapterName} has ${member} from "${String(name)}", but ${describe(adaptee)} has no such member. ` +
      "Correct the name in the mapping, or map the member to a function.",
  );
}
