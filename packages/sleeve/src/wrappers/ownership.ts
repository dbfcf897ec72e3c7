import { SleeveError } from "../errors.ts";
import { type BareSite, named } from "../forward/sites.ts";

/** The members by which a wrapper is released. The symbols are the language's, where it has them. */
const RELEASING: ReadonlySet<unknown> = new Set(
  ["close", "dispose", Symbol.dispose, Symbol.asyncDispose].filter((key) => key !== undefined),
);

/** Whether wrappers release their adaptees, which of them have been released, and what that gave. */
export class Ownership {
  readonly #owns: boolean;
  readonly #name: string;
  readonly #released = new WeakMap<object, unknown>();

  constructor(owns: boolean, sources: readonly (readonly [PropertyKey, unknown])[], name: string) {
    if (!sources.some(([key]) => RELEASING.has(key))) {
      throw new SleeveError(
        "BAD_OPTION",
        `${name} is told whether it owns its adaptee, but maps no member that releases it. Map close, dispose, ` +
          "Symbol.dispose or Symbol.asyncDispose, or leave out `owns`.",
      );
    }
    this.#owns = owns;
    this.#name = name;
  }

  isReleased(wrapper: object): boolean {
    return this.#released.has(wrapper);
  }

  /** A forwarding function that releases once, or refuses after a release. */
  around(site: BareSite, key: PropertyKey): BareSite {
    const released = this.#released;
    const owns = this.#owns;
    const refusal = () =>
      new SleeveError(
        "RELEASED",
        `${this.#name} was asked for ${String(key)} after it had been released. Release it last.`,
      );
    return RELEASING.has(key)
      ? named(function (...args) {
          if (released.has(this)) return released.get(this);
          // One that fails half-way has begun, and is not to be begun again.
          released.set(this, undefined);
          const result = owns ? site.apply(this, args) : undefined;
          released.set(this, result);
          return result;
        }, site)
      : named(function (...args) {
          if (released.has(this)) throw refusal();
          return site.apply(this, args);
        }, site);
  }
}
