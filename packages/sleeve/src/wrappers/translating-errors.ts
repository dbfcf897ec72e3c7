import { SleeveError } from "../errors.ts";
import { type BareSite, named, type Site } from "../forward/sites.ts";
import { isOverLater } from "../layers/outcome.ts";

export interface ErrorTranslation {
  /**
   * Takes every error on its way out and gives back the one for the client: errors that are thrown, that a promise is
   * rejected with, or that a generator ends with. One that is fit for the client already is given back as it came.
   */
  readonly errors?: (error: unknown, member: string) => unknown;
  /**
   * Classes of errors that pass as they are, without being translated. With it, no other error escapes: one that is given
   * back untranslated becomes an `UNTRANSLATED` with the error as its cause.
   */
  readonly allowed?: readonly (abstract new (
    ...args: never[]
  ) => Error)[];
}

/** A forwarding function that has its errors translated. */
export function translatingErrors(
  { shown, inner }: Site,
  { errors, allowed }: ErrorTranslation,
  member: string,
): BareSite {
  if (!errors && !allowed) return shown;
  const refuse = (error: unknown): never => {
    if (allowed?.some((each) => error instanceof each)) throw error;
    const translated = errors ? errors(error, member) : error;
    if (allowed && translated === error) throw untranslated(error, member);
    throw translated;
  };
  return named(function (...args) {
    let result: unknown;
    try {
      result = inner.apply(this, args);
    } catch (error) {
      return refuse(error);
    }
    if (typeof result !== "object" || result === null) return result;
    if (isOverLater(result) && !(result instanceof Promise)) return translatingSteps(result, refuse);
    return isThenable(result) ? Promise.resolve(result).then(undefined, refuse) : result;
  }, shown);
}

function isThenable(result: object): result is PromiseLike<unknown> {
  return "then" in result && typeof result.then === "function";
}

/** A generator whose steps have their errors translated. It stays the object that it is. */
function translatingSteps(generator: Generator, refuse: (error: unknown) => never): Generator {
  for (const name of ["next", "return", "throw"] as const) {
    const step = generator[name] as (value: unknown) => unknown;
    const value = (given: unknown) => {
      try {
        const result = step.call(generator, given);
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
