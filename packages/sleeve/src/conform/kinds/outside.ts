import { isPlain } from "../alike.ts";
import { isObject, isThenable, tagOf } from "../schema.ts";
import type { Reached, Script } from "../spy.ts";

/** What came out of the code behind a wrapper: its objects, and what it failed with. */
export class Outside {
  readonly errors = new Set<unknown>();
  readonly #objects = new WeakSet<object>();

  constructor(adaptee: object) {
    this.#objects.add(adaptee);
  }

  /** A script that lets the adaptee do what it does, and notes what comes out of it. */
  readonly noting: Script = (call, real) => {
    for (const each of call.args) if (typeof each === "function") this.#own.add(each);
    try {
      const result = real();
      if (isThenable(result)) {
        result.then(
          (value) => this.note(value),
          (error: unknown) => this.errors.add(error),
        );
      } else this.note(result);
      return result;
    } catch (error) {
      this.errors.add(error);
      throw error;
    }
  };
  readonly #own = new WeakSet<object>();

  note(value: unknown): void {
    for (const each of objectsIn(value))
      if (each instanceof Error) this.errors.add(each);
      else if (!this.#own.has(each)) this.#objects.add(each);
  }

  /** An object of the outside that a value is, or holds. */
  foundIn(value: unknown): object | undefined {
    return objectsIn(value).find((each) => this.#objects.has(each));
  }
}

/** Objects of classes in a value, as far as a client would look: not those of the language, and no plain ones. */
function objectsIn(value: unknown, depth = 3, seen = new Set<object>()): readonly object[] {
  if (!isObject(value) || typeof value === "function" || seen.has(value) || isThenable(value)) return [];
  seen.add(value);
  const own = isPlain(value) || (tagOf(value) !== "Object" && !(value instanceof Error)) ? [] : [value];
  if (depth === 0 || value instanceof Error) return own;
  const held =
    value instanceof Map || value instanceof Set
      ? [...value.values()]
      : isPlain(value)
        ? Object.values(value)
        : [];
  return [...own, ...held.flatMap((each: unknown) => objectsIn(each, depth - 1, seen))];
}

/**
 * What a call of the outside does to fail, in the way in which it fails: by a rejected promise where it promises, by the first
 * argument of a callback where it takes one, and otherwise at once.
 */
export function failing(error: unknown): Script {
  return ({ args }: Reached, real) => {
    const callback = args.findLast((each) => typeof each === "function") as
      | ((error: unknown) => void)
      | undefined;
    if (callback) {
      queueLater(() => callback(error));
      return undefined;
    }
    const result = real();
    if (!isThenable(result)) throw error;
    result.then(undefined, () => {});
    return Promise.reject(error);
  };
}

/** Later, as the outside mostly calls back, and yet before any timer. */
function queueLater(run: () => void): void {
  void Promise.resolve().then(() => Promise.resolve().then(run));
}
