import { isPlain } from "../alike.ts";
import { isObject, isThenable, tagOf } from "../schema.ts";
import type { Script } from "../spy.ts";
import type { Habits } from "./habits.ts";

/** What came out of the code behind a wrapper: its objects, and what it failed with. */
export class Outside {
  readonly errors = new Set<unknown>();
  readonly #objects = new WeakSet<object>();

  readonly #habits: Habits;
  readonly #own = new WeakSet<object>();

  constructor(adaptee: object, habits: Habits) {
    this.#objects.add(adaptee);
    this.#habits = habits;
  }

  /** A script that lets the adaptee do what it does, and notes what comes out of it. */
  readonly noting: Script = (call, real) => {
    for (const each of call.args) if (typeof each === "object" && each !== null) this.#own.add(each);
    try {
      const result = this.#habits.watching(call, real, (value) => this.note(value));
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
