import { isThenable } from "../../shared/thenable.ts";
import type { Script, SpiedCall } from "./spy.ts";

/**
 * How a member calls its callback: with an error or null first, with values only, or as one of two callbacks.
 */
type CallbackConvention = "error first" | "values" | "one of two";

type Callback = (this: unknown, ...args: readonly unknown[]) => unknown;

/** These members take listeners, which do not report how the call itself ended. */
const LISTENING =
  /(^|\.)(on|on[A-Z]\w*|once|off|subscribe|unsubscribe|observe|watch|(add|remove|prepend)\w*Listener)$/;

/**
 * The callback conventions of outside members, learned from successful calls, in order to make them fail in
 * their own way.
 */
export class CallbackConventions {
  readonly #ofMember = new Map<PropertyKey | undefined, CallbackConvention>();
  /** One callback passed twice must stay one function, because listeners are removed by identity. */
  readonly #watched = new WeakMap<Callback, Callback>();

  /** Runs a call and learns its callback convention. `onArguments` receives the arguments of callbacks. */
  watching(
    { key, args }: SpiedCall,
    real: Parameters<Script>[1],
    onArguments: (value: unknown) => void = () => {},
  ): unknown {
    const callbacks = args.filter((argument) => typeof argument === "function").length;
    return real(
      args.map((argument) =>
        typeof argument === "function"
          ? this.#watchedCallback(argument as Callback, (input) => {
              input.forEach(onArguments);
              this.#learn(key, callbacks, input);
            })
          : argument,
      ),
    );
  }

  /**
   * Makes a call fail in its own way: by rejecting its promise, by its callback, or otherwise by throwing.
   * `delivered` is called if the failure could be delivered.
   */
  failing(error: unknown, { key, args }: SpiedCall, real: () => unknown, delivered: () => void): unknown {
    const callback = args.findLast((argument) => typeof argument === "function") as Callback | undefined;
    if (callback) {
      const habit = this.#ofMember.get(key);
      if (habit === undefined || habit === "values" || LISTENING.test(String(key))) return real();
      delivered();
      // Asynchronously, as outside code mostly calls back, but before any timer.
      void Promise.resolve().then(() => Promise.resolve().then(() => callback(error)));
      return undefined;
    }
    const result = real();
    delivered();
    if (!isThenable(result)) throw error;
    result.then(undefined, () => {});
    return Promise.reject(error);
  }

  #learn(key: PropertyKey | undefined, callbacks: number, [firstArgument]: readonly unknown[]): void {
    if (this.#ofMember.has(key)) return;
    const isError = firstArgument === null || firstArgument === undefined || firstArgument instanceof Error;
    const convention = isError ? "error first" : "values";
    this.#ofMember.set(key, callbacks > 1 ? "one of two" : convention);
  }

  #watchedCallback(callback: Callback, onArguments: (args: readonly unknown[]) => void): Callback {
    const cached = this.#watched.get(callback);
    if (cached) return cached;
    const watched: Callback = function (this: unknown, ...args) {
      onArguments(args);
      return Reflect.apply(callback, this, args) as unknown;
    };
    this.#watched.set(callback, watched);
    return watched;
  }
}
