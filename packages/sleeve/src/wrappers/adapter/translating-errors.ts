import type { Forwarder, RawForwarder } from "../../forward/closed/call-sites.ts";
import { withSignature } from "../../forward/mirror-function.ts";
import { SleeveError } from "../../shared/errors.ts";
import { isPending } from "../../shared/outcome.ts";

export interface ErrorTranslation {
  /**
   * Translates each error for the client: errors that are thrown, that reject a promise, or that end a
   * generator. Returns an error unchanged to let it pass.
   */
  readonly errors?: (error: unknown, member: string) => unknown;
  /**
   * Error classes that pass without translation. If set, no other error escapes: an untranslated error
   * becomes an `UNTRANSLATED` error with the original as its cause.
   */
  readonly allowed?: readonly (abstract new (
    ...args: never[]
  ) => Error)[];
}

/** Wraps a forwarder so that its errors are translated. */
export function translatingErrors(
  { named, raw }: Forwarder,
  { errors, allowed }: ErrorTranslation,
  member: string,
): RawForwarder {
  if (!errors && !allowed) return named;
  const refuse = (error: unknown): never => {
    if (allowed?.some((item) => error instanceof item)) throw error;
    const translated = errors ? errors(error, member) : error;
    if (allowed && translated === error) throw untranslated(error, member);
    throw translated;
  };
  return withSignature(function (...args) {
    let result: unknown;
    try {
      result = raw.apply(this, args);
    } catch (error) {
      return refuse(error);
    }
    if (typeof result !== "object" || result === null) return result;
    if (isPending(result) && !(result instanceof Promise)) return translatingSteps(result, refuse);
    // Other thenables pass unchanged, because subscribing to one may start its work.
    return result instanceof Promise ? result.then(undefined, refuse) : result;
  }, named);
}

/** Translates the errors of a generator's steps. The same generator object is returned. */
function translatingSteps(generator: Generator, refuse: (error: unknown) => never): Generator {
  for (const name of ["next", "return", "throw"] as const) {
    const step = generator[name] as (value: unknown) => unknown;
    const value = (value: unknown) => {
      try {
        const result = step.call(generator, value);
        return result instanceof Promise ? result.then(undefined, refuse) : result;
      } catch (error) {
        return refuse(error);
      }
    };
    Object.defineProperty(generator, name, { value, writable: true, configurable: true });
  }
  return generator;
}

function untranslated(cause: unknown, member: string): SleeveError {
  const reason = cause instanceof Error ? `${cause.name}: ${cause.message}` : String(cause);
  return new SleeveError(
    "UNTRANSLATED",
    `${member} failed with an error that the adapter neither translates nor allows: ${reason}. Translate it in ` +
      "`errors`, or list its class in `allowed`.",
    { cause },
  );
}
