import { SleeveError } from "../errors.ts";
import type { Layer } from "../forward/call.ts";
import { requireObject } from "../forward/subject.ts";
import { stand } from "../forward/wrapped.ts";
import { requireFunction } from "../layers/options.ts";
import { isClass, type Member } from "../surface/member.ts";
import type { Surface } from "../surface/surface.ts";
import { decorate, type Layered } from "./decorate.ts";
import { closedPort, openPort } from "./port.ts";
import { Seat } from "./seat.ts";

/** A class whose objects a proxy stands for. */
export type ClassOf<Target> = abstract new (...args: never[]) => Target;

export interface ProxyOptions<Target extends object> {
  /**
   * The members of the subject, or its class, so that the proxy knows them before there is a subject. Without it, the
   * first look at the proxy makes one.
   */
  readonly surface?: Surface<Target> | ClassOf<Target>;
  /** Layers around the proxy; the first is the outermost. What they answer or refuse does not make a subject. */
  readonly layers?: readonly Layer<Layered<Target>>[];
  /** Replaces the subject, and takes it away. */
  readonly control?: ProxyControl;
  /** Lets go of a subject that was replaced or taken away, once no call is under way in it. */
  readonly release?: (subject: Target) => unknown;
}

/** What stands for a subject that is made asynchronously: its methods, each of which gives a promise. */
export type Deferred<Target> = {
  [Key in keyof Target as Target[Key] extends (...args: never[]) => unknown
    ? Key
    : never]: Target[Key] extends (...args: infer Args) => infer Result
    ? Result extends PromiseLike<unknown>
      ? Target[Key]
      : (...args: Args) => Promise<Result>
    : never;
};

/**
 * Stands for an object that is made at first use, by `create`: once, also for calls that come while it is being made.
 * A creation that fails is tried again at the next use.
 *
 * Where `create` gives a promise, members are called before the subject is there, so each gives a promise and none
 * holds a value. Results come as they are, by identity; with a `control`, promises are followed by new ones, so that
 * none tells anything after a revocation.
 *
 * @throws {SleeveError} `REVOKED`, from every use after a revocation
 * @example
 * import { between, guard, proxy } from "sleeve";
 *
 * class Ledger { async book(berth: number, vessel: string) { return `${vessel} at ${berth}`; } }
 * const ledger = proxy(async () => new Ledger(), {
 *   surface: Ledger,
 *   layers: [guard<Ledger>({ book: { berth: between(1, 24) } })],
 * });
 * await ledger.book(4, "Marigold"); // now there is a ledger
 */
export function proxy<Target extends object>(
  create: () => Promise<Target>,
  options?: ProxyOptions<Target>,
): Deferred<Target>;
export function proxy<Target extends object>(create: () => Target, options?: ProxyOptions<Target>): Target;
export function proxy(
  create: () => object | Promise<object>,
  // What the overloads promise is not known of an object that is yet to be made.
  options: object = {},
): unknown {
  const { surface, layers = [], control, release } = options as ProxyOptions<never>;
  requireFunction(create, "proxy: create");
  const seat = new Seat<object>({
    make: () => {
      const made = create();
      if (made instanceof Promise) return made.then(standing);
      return standing(made);
    },
    release: release as ((subject: object) => unknown) | undefined,
    isRevocable: control !== undefined,
  });
  if (control) attach(control, seat);
  const isOpen = surface === undefined || isClass(surface);
  const port = isOpen
    ? openPort(seat, {
        of: surface as ClassOf<object> | undefined,
        why: "its subject is made at first use, and its members are not known before",
      })
    : closedPort(seat, membersOf(surface), "its members are those of its surface");
  /** Wherever the subject itself comes to light, a wrapper that hides it shows this proxy in its place. */
  function standing(made: unknown): object {
    const subject = requireObject(made, "proxy(create)", "subject");
    stand(subject, port);
    return subject;
  }
  return layers.length > 0 ? decorate(port, ...(layers as readonly Layer[])) : port;
}

/** Seats are the proxies' own, so only this file reaches them. */
let attach: (control: ProxyControl, seat: Seat<object>) => void;

/** Replaces the subject of proxies without their clients noticing, and takes it away from them. */
export class ProxyControl {
  readonly #seats: Seat<object>[] = [];

  static {
    attach = (control, seat) => control.#seats.push(seat);
  }

  /** Whether there is a subject now. */
  get isCreated(): boolean {
    return this.#seats.some((seat) => seat.isOccupied);
  }

  /**
   * Has the next use make a subject anew. Calls that are under way end where they began; resolves when they have,
   * and the former subject is released.
   */
  async replace(): Promise<void> {
    await Promise.all(this.#seats.map((seat) => seat.vacate()));
  }

  /**
   * Ends all use, at once: what is called from now on throws `REVOKED`, and so does what is still under way.
   * Resolves when that has ended, and the subject is released.
   */
  async revoke(reason = "it was revoked"): Promise<void> {
    const error = new SleeveError(
      "REVOKED",
      `The proxy may not be used any more: ${reason}. Ask for a new one.`,
    );
    await Promise.all(this.#seats.map((seat) => seat.end(error)));
  }
}

/** Members as a surface tells them. */
export function membersOf(surface: object): readonly Member[] {
  return Reflect.ownKeys(surface).map((key) => ({
    key,
    label: String(key),
    kind: Reflect.get(surface, key) === "method" ? "method" : "property",
    own: false,
    readable: true,
    writable: true,
    enumerable: true,
    configurable: true,
    signature: undefined,
  }));
}
