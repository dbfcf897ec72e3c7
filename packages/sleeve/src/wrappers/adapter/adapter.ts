import { createForwarder } from "../../forward/closed/call-sites.ts";
import { LiveWrappers } from "../../forward/closed/live-wrappers.ts";
import { Adapting } from "../../forward/closed/templates.ts";
import { type WrapperClass, wrapperClass } from "../../forward/closed/wrapper-class.ts";
import { requireObject } from "../../forward/subject.ts";
import type { Member } from "../../surface/member.ts";
import type { Mapping } from "./mapping.ts";
import { descriptorOf, namedMember, sourcesOf } from "./member-source.ts";
import { Ownership } from "./ownership.ts";
import { type ErrorTranslation, translatingErrors } from "./translating-errors.ts";

export interface AdapterOptions extends ErrorTranslation {
  /** Name of the adapter in messages. Default: the names of the target's members. */
  readonly name?: string;
  /**
   * Whether the wrapper owns its adaptee. Default: members are forwarded as mapped.
   *
   * Members named in {@link RELEASE_NAMES}, such as `close`, and those under `Symbol.dispose` and `Symbol.asyncDispose` release. If the wrapper owns the adaptee,
   * the first release reaches the adaptee and later ones do not; if it borrows the adaptee, none do. After a
   * release, any other use throws `RELEASED`.
   */
  readonly owns?: boolean;
}

/** Creates wrappers that implement `Target` over an `Adaptee`, one per adaptee. */
export type Adapter<Target, Adaptee> = (adaptee: Adaptee) => Target;

export type AnyFunction = (...args: never[]) => unknown;

/**
 * Adapts outside objects to the interface that the client needs.
 *
 * Each member of the target is mapped to the name of an adaptee's member of the same shape, or to a function
 * that receives the adaptee first. The adaptee may be an object, a function or a module. A target that is
 * itself a function is mapped by one function. The wrapper has the members of the target and nothing else of
 * the adaptee. An adapter only translates; add other behaviour with {@link decorate}.
 *
 * For classes with `new` and static members, use {@link classAdapter}; for both directions, {@link twoWay}.
 *
 * @throws {SleeveError} `BAD_MAPPING`, `BAD_OPTION`; for a given adaptee `NO_SUBJECT`, `NOT_AN_OBJECT`, and
 *   `NO_SUCH_MEMBER` if the mapping names a member that this adaptee lacks
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
export function adapter<Target extends AnyFunction, Adaptee extends object>(
  translation: (adaptee: Adaptee, ...args: Parameters<Target>) => ReturnType<Target>,
  options?: ErrorTranslation & Pick<AdapterOptions, "name">,
): Adapter<Target, Adaptee>;
export function adapter<Target extends object, Adaptee extends object>(
  mapping: Target extends AnyFunction ? never : Mapping<Target, Adaptee>,
  options?: AdapterOptions,
): Adapter<Target, Adaptee>;
export function adapter(mapping: object, options: AdapterOptions = {}): Adapter<object, object> {
  return typeof mapping === "function"
    ? functionAdapter(mapping as (adaptee: object, ...args: unknown[]) => unknown, options)
    : objectAdapter(mapping, options);
}

function objectAdapter(mapping: object, options: AdapterOptions): Adapter<object, object> {
  const name = nameOf(
    options,
    typeof mapping === "object" && mapping ? Reflect.ownKeys(mapping) : ["nothing"],
  );
  const live = new LiveWrappers(Adapting.adapteeOf);
  const sources = sourcesOf(mapping, name, (receiver) => live.find(receiver)?.subject);
  const ownership = options.owns === undefined ? undefined : new Ownership(options.owns, sources, name);
  /** The classes of wrappers, by the kinds of the members that the mapping names. Adaptees may differ in those. */
  const classes = new Map<string, WrapperClass>();
  const createClass = (members: readonly (Member | undefined)[]): WrapperClass => {
    const descriptors = sources.map(([key, source], index) => [
      key,
      descriptorOf(source, members[index], (forwarder) => {
        const translated = translatingErrors(forwarder, options, String(key));
        return ownership?.around(translated, key) ?? translated;
      }),
    ]);
    const Wrapper = wrapperClass(Object.prototype, Object.fromEntries(descriptors), { base: Adapting });
    live.addClass(Wrapper.prototype);
    return Wrapper;
  };
  const create = (adaptee: object): object => {
    const members = sources.map(([key, source]) => namedMember(source, key, adaptee, name));
    const kinds = members.map(kindOf).join("");
    const Wrapper = classes.get(kinds) ?? createClass(members);
    classes.set(kinds, Wrapper);
    const wrapper = new Wrapper(adaptee);
    live.add(wrapper);
    return wrapper;
  };
  return onePerAdaptee(name, create, (wrapper) => ownership?.isReleased(wrapper) !== true);
}

/** What the wrapper depends on in a member of the adaptee. */
function kindOf(member: Member | undefined): string {
  if (!member) return "-";
  return member.kind === "method" ? "m" : `${member.readable ? "r" : ""}${member.writable ? "w" : ""},`;
}

function functionAdapter(
  translation: (adaptee: object, ...args: unknown[]) => unknown,
  options: AdapterOptions,
): Adapter<object, object> {
  const name = nameOf(options, [translation.name || "a function"]);
  return onePerAdaptee(name, (adaptee) => {
    const label = options.name ?? translation.name;
    const signature = { name: label, length: Math.max(0, translation.length - 1) };
    return translatingErrors(
      createForwarder(
        () =>
          (...args) =>
            translation(adaptee, ...args),
        signature,
      ),
      options,
      label,
    );
  });
}

/** Each adaptee has one wrapper, as long as the wrapper is usable. */
function onePerAdaptee(
  name: string,
  create: (adaptee: object) => object,
  isOfUse: (wrapper: object) => boolean = () => true,
): Adapter<object, object> {
  const wrappers = new WeakMap<object, object>();
  return (adaptee) => {
    const adapted = requireObject(adaptee, name, "adaptee");
    const existing = wrappers.get(adapted);
    if (existing && isOfUse(existing)) return existing;
    const wrapper = create(adapted);
    wrappers.set(adapted, wrapper);
    return wrapper;
  };
}

export function nameOf({ name }: Pick<AdapterOptions, "name">, keys: readonly PropertyKey[]): string {
  return name ? `The adapter "${name}"` : `The adapter of ${keys.map(String).join(", ")}`;
}
