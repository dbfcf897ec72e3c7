import { failAs, noteResult } from "../../forward/called-function.ts";
import type { RawForwarder } from "../../forward/closed/call-sites.ts";
import { withSignature } from "../../forward/mirror-function.ts";
import { SleeveError } from "../../shared/errors.ts";
import { RELEASE_NAMES, releaseKeysOf } from "../../shared/release-names.ts";
import type { Source } from "./member-source.ts";

/** Number of arguments that a target's member takes. The name of an adaptee's member does not reveal it. */
function parametersIn(source: Source): number {
  return source.from === "method" ? source.call.named.length : 0;
}

/** Tracks whether wrappers release their adaptees, which have been released, and with what result. */
export class Ownership {
  readonly #owns: boolean;
  readonly #name: string;
  readonly #keys: ReadonlySet<PropertyKey>;
  readonly #released = new WeakMap<object, unknown>();

  constructor(owns: boolean, sources: readonly (readonly [PropertyKey, Source])[], name: string) {
    this.#keys = new Set(releaseKeysOf(sources.map(([key, source]) => [key, parametersIn(source)] as const)));
    if (this.#keys.size === 0) {
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
    return this.#keys.has(key)
      ? withSignature(function (...args) {
          if (released.has(this)) return released.get(this);
          // A release that fails half-way has begun and must not begin again.
          released.set(this, undefined);
          const result = owns ? forwarder.apply(this, args) : undefined;
          released.set(this, result);
          return result;
        }, forwarder)
      : withSignature(function (...args) {
          if (released.has(this)) return failAs(forwarder, refusal());
          return noteResult(forwarder, forwarder.apply(this, args));
        }, forwarder);
  }
}
