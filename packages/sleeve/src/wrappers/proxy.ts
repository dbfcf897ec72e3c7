import type { Layer } from "../forward/call.ts";
import { requireObject } from "../forward/subject.ts";
import { registerAlias } from "../forward/wrapper-record.ts";
import { SleeveError } from "../shared/errors.ts";
import { requireFunction } from "../shared/options.ts";
import { isClass, type Member } from "../surface/member.ts";
import { isAsyncFunction } from "../surface/member-functions.ts";
import type { Surface } from "../surface/surface.ts";
import { decorate } from "./decorate.ts";
import { closedPort, openPort } from "./port.ts";
import { SubjectSlot } from "./subject-slot.ts";

/** The class of a proxy's subject. */
export type ClassOf<Target> = abstract new (...args: never[]) => Target;

export interface ProxyOptions<Target extends object> {
  /**
   * Members of the subject, or its class, so that the proxy knows them before the subject exists. Default:
   * the first access to the proxy creates the subject.
   */
  readonly surface?: Surface<Target> | ClassOf<Target>;
  /**
   * Layers around the proxy, outermost first. A call that they answer or reject does not create the subject.
   */
  readonly layers?: readonly Layer<Target>[];
  /** Replaces or revokes the subject. */
  readonly control?: ProxyControl;
  /** Releases a subject that was replaced or revoked, once no call is in flight in it. */
  readonly release?: (subject: Target) => unknown;
}

/** The view of a subject that is created asynchronously: its methods, each returning a promise. */
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
 * Creates a proxy for an object that `create` creates on first use. Concurrent first calls share one
 * creation. A failed creation is retried at the next use.
 *
 * If `create` returns a promise, members are called before the subject exists, so each returns a promise and
 * none holds a value. Results pass by identity. With a `control`, promises are replaced by new ones that
 * reject after a revocation.
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
 * await ledger.book(4, "Marigold"); // creates the ledger
 */
export function proxy<Target extends object>(
  create: () => Promise<Target>,
  options?: ProxyOptions<Target>,
): Deferred<Target>;
export function proxy<Target extends object>(create: () => Target, options?: ProxyOptions<Target>): Target;
export function proxy(
  create: () => object | Promise<object>,
  // The result types of the overloads are not known for an object that does not exist yet.
  options: object = {},
): unknown {
  const { surface, layers = [], control, release } = options as ProxyOptions<never>;
  requireFunction(create, "proxy: create");
  const slot = new SubjectSlot<object>({
    make: () => {
      const created = create();
      if (created instanceof Promise) return created.then(register);
      return register(created);
    },
    release: release as ((subject: object) => unknown) | undefined,
    isAsync: isAsyncFunction(create),
    isRevocable: control !== undefined,
  });
  if (control) attach(control, slot);
  const isOpen = surface === undefined || isClass(surface);
  const port = isOpen
    ? openPort(slot, {
        of: surface as ClassOf<object> | undefined,
        why: "its subject is created on first use, and its members are unknown until then",
      })
    : closedPort(slot, membersOf(surface), "its members are those of its surface");
  /** If code exposes the subject itself, a wrapper that hides it shows this proxy instead. */
  function register(created: unknown): object {
    const subject = requireObject(created, "proxy(create)", "subject");
    registerAlias(subject, port);
    return subject;
  }
  return layers.length > 0 ? decorate(port, ...(layers as readonly Layer[])) : port;
}

/** Slots belong to proxies, so only this file can reach them. */
let attach: (control: ProxyControl, slot: SubjectSlot<object>) => void;

/** Replaces or revokes the subject of proxies without changing the proxies that clients hold. */
export class ProxyControl {
  readonly #slots: SubjectSlot<object>[] = [];

  static {
    attach = (control, slot) => control.#slots.push(slot);
  }

  /** Whether the subject exists now. */
  get isCreated(): boolean {
    return this.#slots.some((slot) => slot.hasSubject);
  }

  /**
   * Discards the subject, so that the next use creates a new one. Calls in flight finish in the old one.
   * Resolves when they have finished and the old subject is released.
   */
  async replace(): Promise<void> {
    await Promise.all(this.#slots.map((slot) => slot.clear()));
  }

  /**
   * Ends all use immediately: later calls throw `REVOKED`, and calls in flight reject with it. Resolves when
   * the calls have finished and the subject is released.
   */
  async revoke(reason = "it was revoked"): Promise<void> {
    const error = new SleeveError(
      "REVOKED",
      `The proxy can no longer be used: ${reason}. Request a new one from its owner.`,
    );
    await Promise.all(this.#slots.map((slot) => slot.end(error)));
  }
}

/** Returns the members that a surface describes. */
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
