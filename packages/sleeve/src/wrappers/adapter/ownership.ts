import type { RawForwarder } from "../../forward/closed/forwarders.ts";
import { withSignature } from "../../forward/mirror-function.ts";
import { SleeveError } from "../../shared/errors.ts";
import { isReleaseKey, RELEASE_NAMES } from "../../shared/release-names.ts";

/** Tracks whether wrappers release their adaptees, which have been released, and with what result. */
export class Ownership {
  readonly #owns: boolean;
  readonly #name: string;
  readonly #released = new WeakMap<object, unknown>();

  constructor(owns: boolean, sources: readonly (readonly [PropertyKey, unknown])[], name: string) {
    if (!sources.some(([key]) => isReleaseKey(key))) {
      throw new SleeveError(
        "BAD_OPTION",
        `${name} sets \`owns\`, but maps no member that releases its adaptee. Map one of ${RELEASE_NAMES.join(", ")}, ` +
          "Symbol.dispose or Symbol.asyncDispose, or remove `owns`.",
      );
    }
    this.#owns = owns;
    this.#name = name;
  }

  isReleased(wrapper: object): boolean {
    return this.#released.has(wrapper);
  }

  /** Wraps a forwarder so that it releases once, or throws after a release. */
  around(forwarder: RawForwarder, key: PropertyKey): RawForwarder {
    const released = this.#released;
    const owns = this.#owns;
    const refusal = () =>
      new SleeveError(
        "RELEASED",
        `${this.#name}: ${String(key)} was used after the release. Release the wrapper last.`,
      );
    return isReleaseKey(key)
      ? withSignature(function (...args) {
          if (released.has(this)) return released.get(this);
          // A release that fails half-way has begun and must not begin again.
          released.set(this, undefined);
          const result = owns ? forwarder.apply(this, args) : undefined;
          released.set(this, result);
          return result;
        }, forwarder)
      : withSignature(function (...args) {
          if (released.has(this)) throw refusal();
          return forwarder.apply(this, args);
        }, forwarder);
  }
}
