import { isThenable } from "../../../shared/thenable.ts";
import { isPlain } from "../../values/equality.ts";
import { isObject, tagOf } from "../../values/schema.ts";
import type { CallbackConventions } from "../callback-conventions.ts";
import type { Script } from "../spy.ts";

/** Tracks what comes out of the code behind a wrapper: its objects and its errors. */
export class LeakTracker {
  readonly errors = new Set<unknown>();
  readonly #objects = new WeakSet<object>();

  readonly #conventions: CallbackConventions;
  readonly #own = new WeakSet<object>();

  constructor(adaptee: object, conventions: CallbackConventions) {
    this.#objects.add(adaptee);
    this.#conventions = conventions;
  }

  /** Returns a script that lets the adaptee run and records what comes out of it. */
  readonly noting: Script = (call, real) => {
    for (const argument of call.args)
      if (typeof argument === "object" && argument !== null) this.#own.add(argument);
    try {
      const result = this.#conventions.watching(call, real, (value) => this.note(value));
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
    for (const item of objectsIn(value))
      if (item instanceof Error) this.errors.add(item);
      else if (!this.#own.has(item)) this.#objects.add(item);
  }

  /** Returns the outside object that a value is or contains. */
  foundIn(value: unknown): object | undefined {
    return objectsIn(value).find((objectItem) => this.#objects.has(objectItem));
  }
}

/**
 * Returns the class instances in a value that a client can reach. Built-in and plain objects do not count.
 */
function objectsIn(value: unknown, depth = 3, visited = new Set<object>()): readonly object[] {
  if (!isObject(value) || typeof value === "function" || visited.has(value) || isThenable(value)) return [];
  visited.add(value);
  const own = isPlain(value) || (tagOf(value) !== "Object" && !(value instanceof Error)) ? [] : [value];
  if (depth === 0 || value instanceof Error) return own;
  const fields = isPlain(value) ? Object.values(value) : [];
  const contents = value instanceof Map || value instanceof Set ? [...value.values()] : fields;
  return [...own, ...contents.flatMap((item: unknown) => objectsIn(item, depth - 1, visited))];
}
