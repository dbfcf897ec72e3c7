import { isThenable } from "../schema.ts";
import type { Reached, Script } from "../spy.ts";

/** How a member calls back: with an error or nothing first, with values only, or by one callback of two. */
type Habit = "error first" | "values" | "one of two";

type Callback = (this: unknown, ...args: readonly unknown[]) => unknown;

/** These take a callback for what may come, and do not tell by it how they themselves ended. */
const LISTENING =
  /(^|\.)(on|on[A-Z]\w*|once|off|subscribe|unsubscribe|observe|watch|(add|remove|prepend)\w*Listener)$/;

/** How the members of outside code call back, learned from calls that go well, to make them fail in their own way. */
export class Habits {
  readonly #ofMember = new Map<PropertyKey | undefined, Habit>();
  /** A callback that is passed twice has to be the same both times, as whoever takes off a listener knows. */
  readonly #watched = new WeakMap<Callback, Callback>();

  /** Lets a call do what it does, and learns how it calls back. `told` is told what callbacks are given. */
  watching(
    { key, args }: Reached,
    real: Parameters<Script>[1],
    told: (value: unknown) => void = () => {},
  ): unknown {
    const callbacks = args.filter((each) => typeof each === "function").length;
    return real(
      args.map((each) =>
        typeof each === "function"
          ? this.#watchedCallback(each as Callback, (given) => {
              given.forEach(told);
              this.#learn(key, callbacks, given);
            })
          : each,
      ),
    );
  }

  /**
   * A call that fails with an error in the way in which it fails: by a rejected promise where it promises, by its callback
   * where that may be told one, and otherwise at once. `delivered` is called where it could be made to fail.
   */
  failing(error: unknown, { key, args }: Reached, real: () => unknown, delivered: () => void): unknown {
    const callback = args.findLast((each) => typeof each === "function") as Callback | undefined;
    if (callback) {
      const habit = this.#ofMember.get(key);
      if (habit === undefined || habit === "values" || LISTENING.test(String(key))) return real();
      delivered();
      // Later, as the outside mostly calls back, and yet before any timer.
      void Promise.resolve().then(() => Promise.resolve().then(() => callback(error)));
      return undefined;
    }
    const result = real();
    delivered();
    if (!isThenable(result)) throw error;
    result.then(undefined, () => {});
    return Promise.reject(error);
  }

  #learn(key: PropertyKey | undefined, callbacks: number, [first]: readonly unknown[]): void {
    if (this.#ofMember.has(key)) return;
    const isError = first === null || first === undefined || first instanceof Error;
    this.#ofMember.set(key, callbacks > 1 ? "one of two" : isError ? "error first" : "values");
  }

  #watchedCallback(callback: Callback, told: (args: readonly unknown[]) => void): Callback {
    const known = this.#watched.get(callback);
    if (known) return known;
    const watched: Callback = function (this: unknown, ...args) {
      told(args);
      return Reflect.apply(callback, this, args) as unknown;
    };
    this.#watched.set(callback, watched);
    return watched;
  }
}
