import { requireObject } from "../forward/subject.ts";
import { registerAlias, shareAliases } from "../forward/wrapper-record.ts";
import { SleeveError } from "../shared/errors.ts";
import type { Member } from "../surface/member.ts";
import { reflect } from "../surface/reflect.ts";
import type { Surface } from "../surface/surface.ts";
import { closedPort, openPort } from "./port.ts";
import { membersOf } from "./proxy.ts";
import { SubjectSlot } from "./subject-slot.ts";

/** An implementation behind a port: an object, or a function that creates one on first use. */
export type BridgeImplementation<Port> = Port | (() => Port | Promise<Port>);

export interface BridgeOptions<Port, Name> {
  /** Name of the first implementation. */
  readonly start: Name;
  /** Members of the port. Default: the members that all implementations given as objects have in common. */
  readonly surface?: Surface<Port>;
  /**
   * Releases an implementation that was replaced, once no call is in flight in it. One that was created by a
   * function is created again when it is used again.
   */
  readonly release?: (implementation: Port) => unknown;
}

/** Implementations behind one port, one of them active. */
export interface Bridge<Port extends object, Name extends string = string> {
  /** The object that clients hold. */
  readonly port: Port;
  /** Name of the active implementation. */
  readonly current: Name;
  /**
   * Switches to another implementation. Calls in flight finish in the old one; later calls go to the new one.
   * Resolves when the old one is idle and, with `release`, released. If the new one cannot be created, the
   * old one stays active.
   *
   * @throws {SleeveError} rejects with `NO_SUCH_IMPLEMENTATION`, or `RELEASED` for an object that was
   * released
   */
  use(name: Name): Promise<void>;
  /** Refines the abstraction: returns an object with the port's members and further ones built on them. */
  refine<More extends object>(build: (port: Port) => More): Port & More;
  /** Ends all use, and releases the active implementation. */
  close(): Promise<void>;
}

/**
 * Puts implementations behind one port and switches between them at run time. Clients hold the port.
 *
 * @throws {SleeveError} `NO_SUCH_IMPLEMENTATION`
 * @example
 * import { bridge } from "sleeve";
 *
 * interface Horn { sound(seconds: number): string }
 * const air: Horn = { sound: (seconds) => `${seconds} s of air` };
 * const steam: Horn = { sound: (seconds) => `${seconds} s of steam` };
 * const horn = bridge<Horn>({ air, steam }, { start: "air" });
 * const signals = horn.refine((port) => ({ fog: () => [port.sound(5), port.sound(1)] }));
 * signals.fog(); // twice air
 * await horn.use("steam");
 * signals.fog(); // twice steam
 */
export function bridge<Port extends object, Name extends string = string>(
  implementations: Readonly<Record<Name, BridgeImplementation<Port>>>,
  options: BridgeOptions<Port, Name>,
): Bridge<Port, Name> {
  const { release, surface } = options;
  const catalogue = new Catalogue(implementations);
  let current = options.start;
  let switching: Promise<void> | undefined;
  const slot = new SubjectSlot<Port>({
    make: () => {
      const name = current;
      const created = catalogue.open(name);
      return created instanceof Promise
        ? created.then((port) => register(name, port))
        : register(name, created);
    },
    release:
      release &&
      ((implementation) => {
        catalogue.markReleased(implementation);
        return release(implementation);
      }),
  });
  catalogue.require(current);
  const members = surface ? membersOf(surface) : commonMembers(Object.values(implementations));
  const port = members
    ? closedPort(slot as unknown as SubjectSlot<object>, members, "its members are those of the port")
    : openPort(slot as unknown as SubjectSlot<object>, {
        why: "its implementations are created on first use",
      });

  /** If code exposes an implementation, a wrapper of the port shows the port instead. */
  const register = (name: Name, implementation: Port): Port => {
    registerAlias(requireObject(implementation, `The bridge's "${name}"`, "subject"), port);
    return implementation;
  };
  const replaceNow = (name: Name, implementation: Port): Promise<void> => {
    const registered = register(name, implementation);
    current = name;
    return slot.replace(registered);
  };
  /** Switches take effect in the order they were requested, however long each creation takes. */
  const useLater = (name: Name, created: Promise<Port>): Promise<void> => {
    let idle: Promise<void> | undefined;
    const switched = created.then((implementation) => {
      idle = replaceNow(name, implementation);
    });
    const settled = switched
      .catch(() => {})
      .then(() => {
        if (switching === settled) switching = undefined;
      });
    switching = settled;
    return switched.then(() => idle);
  };
  return {
    port: port as Port,
    get current() {
      return current;
    },
    async use(name) {
      if (switching)
        return useLater(
          name,
          switching.then(() => catalogue.open(name)),
        );
      if (name === current && slot.hasSubject) return;
      const implementation = catalogue.open(name);
      if (implementation instanceof Promise) return useLater(name, implementation);
      return replaceNow(name, implementation);
    },
    refine: (build) => {
      const refined: object = Object.create(port, Object.getOwnPropertyDescriptors(build(port as Port)));
      shareAliases(port, refined);
      // Inherits the members of the port, and adds the refined ones.
      return refined as never;
    },
    close: () => slot.end(new SleeveError("RELEASED", "The bridge was closed. Create a new one.")),
  };
}

/** The implementations of a bridge by name, and those that were released. */
class Catalogue<Port extends object, Name extends string> {
  readonly #implementations: Readonly<Record<Name, BridgeImplementation<Port>>>;
  readonly #names: readonly Name[];
  readonly #released = new Set<string>();

  constructor(implementations: Readonly<Record<Name, BridgeImplementation<Port>>>) {
    this.#implementations = implementations;
    this.#names = Object.keys(implementations) as Name[];
  }

  /** @throws {SleeveError} `NO_SUCH_IMPLEMENTATION` */
  require(name: Name): void {
    if (!Object.hasOwn(this.#implementations, name)) throw noSuchImplementation(name, this.#names);
  }

  /** @throws {SleeveError} `NO_SUCH_IMPLEMENTATION`, or `RELEASED` for an object that was released */
  open(name: Name): Port | Promise<Port> {
    this.require(name);
    if (this.#released.has(name)) throw releasedBefore(name);
    const entry = this.#implementations[name];
    // Ports are objects, so a function is a factory.
    return typeof entry === "function" ? entry() : (entry as Port);
  }

  /** An object that was released cannot be used again; a factory creates another one. */
  markReleased(implementation: Port): void {
    const name = this.#names.find((candidate) => this.#implementations[candidate] === implementation);
    if (name) this.#released.add(name);
  }
}

/** Returns the members that all implementations have, or `undefined` if none of them exists yet. */
function commonMembers(value: readonly unknown[]): readonly Member[] | undefined {
  const surfaces = value
    .filter((item) => typeof item === "object" && item !== null)
    .map((item) => new Map(reflect(item).map((member) => [member.key, member])));
  const [firstSurface, ...others] = surfaces;
  return (
    firstSurface &&
    [...firstSurface.values()].filter(({ key }) => others.every((candidate) => candidate.has(key)))
  );
}

function noSuchImplementation(name: string, names: readonly string[]): SleeveError {
  return new SleeveError(
    "NO_SUCH_IMPLEMENTATION",
    `The bridge has no implementation "${name}". Use one of: ${names.join(", ")}.`,
  );
}

function releasedBefore(name: string): SleeveError {
  return new SleeveError(
    "RELEASED",
    `The bridge's implementation "${name}" was released when it was replaced. Pass the bridge a ` +
      "function that creates it.",
  );
}
