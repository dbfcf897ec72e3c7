import { SleeveError } from "../errors.ts";
import { requireObject } from "../forward/subject.ts";
import { stand, standFor } from "../forward/wrapped.ts";
import type { Member } from "../surface/member.ts";
import { reflect } from "../surface/reflect.ts";
import type { Surface } from "../surface/surface.ts";
import { closedPort, openPort } from "./port.ts";
import { membersOf } from "./proxy.ts";
import { Seat } from "./seat.ts";

/** Something that stands behind a port: an object, or a function that makes one when it is first used. */
export type BridgeImplementation<Port> = Port | (() => Port | Promise<Port>);

export interface BridgeOptions<Port, Name> {
  /** The name of the implementation to begin with. */
  readonly start: Name;
  /** The members of the port. Those that all implementations have that are there already, unless given. */
  readonly surface?: Surface<Port>;
  /**
   * Lets go of an implementation that was changed for another, once no call is under way in it. One that was made by a
   * function is made anew when it is used again.
   */
  readonly release?: (implementation: Port) => unknown;
}

/** Implementations behind one port, one of them in use. */
export interface Bridge<Port extends object, Name extends string = string> {
  /** What clients hold. */
  readonly port: Port;
  /** The name of the implementation in use. */
  readonly current: Name;
  /**
   * Changes to another implementation. Calls that are under way finish where they began, later ones go to the new
   * one; resolves when the one before is idle, and released if that was asked for. An implementation that cannot be made
   * leaves the one in use where it is.
   *
   * @throws {SleeveError} rejects with `NO_SUCH_IMPLEMENTATION`, or `RELEASED` for an object that was released
   */
  use(name: Name): Promise<void>;
  /** Refines the abstraction: everything of the port, and more on top of it that is made of the port's members. */
  refine<More extends object>(build: (port: Port) => More): Port & More;
  /** Ends all use and releases the implementation in use. */
  close(): Promise<void>;
}

/**
 * Puts implementations behind one port, to be changed at run time. The client holds the port and does not notice.
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
  const released = new Set<string>();
  const names = Object.keys(implementations) as Name[];
  let current = options.start;
  let switching: Promise<void> | undefined;

  const open = (name: Name): Port | Promise<Port> => {
    if (!Object.hasOwn(implementations, name)) throw noSuchImplementation(name, names);
    if (released.has(name)) throw releasedBefore(name);
    const given = implementations[name];
    // A port is an object, so what is a function makes one.
    return typeof given === "function" ? given() : (given as Port);
  };
  const seat = new Seat<Port>({
    make: () => {
      const name = current;
      const made = open(name);
      return made instanceof Promise ? made.then((each) => standing(name, each)) : standing(name, made);
    },
    release:
      release &&
      ((implementation) => {
        const name = names.find((each) => implementations[each] === implementation);
        if (name) released.add(name);
        return release(implementation);
      }),
  });
  if (!Object.hasOwn(implementations, current)) throw noSuchImplementation(current, names);
  const given = Object.values<BridgeImplementation<Port>>(implementations);
  const members = surface ? membersOf(surface) : commonMembers(given);
  const port = members
    ? closedPort(seat as unknown as Seat<object>, members, "its members are those of the port")
    : openPort(seat as unknown as Seat<object>, { why: "its implementations are made at first use" });

  /** Wherever an implementation comes to light, a wrapper around the port shows the port in its place. */
  const standing = (name: Name, implementation: Port): Port => {
    stand(requireObject(implementation, `The bridge's "${name}"`, "subject"), port);
    return implementation;
  };
  const seatNow = (name: Name, implementation: Port): Promise<void> => {
    const standingIn = standing(name, implementation);
    current = name;
    return seat.occupy(standingIn);
  };
  /** What is asked for later comes later, however long an implementation takes to be made. */
  const useLater = (name: Name, made: Promise<Port>): Promise<void> => {
    let idle: Promise<void> | undefined;
    const switched = made.then((implementation) => {
      idle = seatNow(name, implementation);
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
          switching.then(() => open(name)),
        );
      if (name === current && seat.isOccupied) return;
      const implementation = open(name);
      if (implementation instanceof Promise) return useLater(name, implementation);
      return seatNow(name, implementation);
    },
    refine: (build) => {
      const refined: object = Object.create(port, Object.getOwnPropertyDescriptors(build(port as Port)));
      standFor(port, refined);
      // It has all of the port by inheritance, and what was built on top.
      return refined as never;
    },
    close: () => seat.end(new SleeveError("RELEASED", "The bridge was closed. Make a new one.")),
  };
}

/** The members that all implementations have; `undefined` where none of them is there yet. */
function commonMembers(given: readonly unknown[]): readonly Member[] | undefined {
  const surfaces = given
    .filter((each) => typeof each === "object" && each !== null)
    .map((each) => new Map(reflect(each).map((member) => [member.key, member])));
  const [first, ...others] = surfaces;
  return first && [...first.values()].filter(({ key }) => others.every((each) => each.has(key)));
}

function noSuchImplementation(name: string, names: readonly string[]): SleeveError {
  return new SleeveError(
    "NO_SUCH_IMPLEMENTATION",
    `The bridge was told to use "${name}". It has: ${names.join(", ")}. Correct the name.`,
  );
}

function releasedBefore(name: string): SleeveError {
  return new SleeveError(
    "RELEASED",
    `The bridge was told to use "${name}", which was released when it was changed for another. Give the bridge a ` +
      "function that makes it.",
  );
}
