type Callback = (this: unknown, ...args: unknown[]) => unknown;
type Start = (this: unknown, callback: unknown, ...args: unknown[]) => unknown;
type Clear = (this: unknown, timer?: unknown) => unknown;

const STARTS = ["setTimeout", "setInterval", "setImmediate"] as const;
const CLEARS = ["clearTimeout", "clearInterval", "clearImmediate"] as const;

/**
 * The timers that code starts by the functions of the global scope, until {@link StartedTimers.end}. A count of all
 * timers of the process would include those of a test runner, which end meanwhile.
 */
export class StartedTimers {
  readonly #running = new Set<unknown>();
  readonly #restore: (() => void)[] = [];

  constructor() {
    for (const name of STARTS)
      this.#replace<Start>(name, (original) => {
        const running = this.#running;
        return function (callback, ...args) {
          if (typeof callback !== "function")
            return Reflect.apply(original, this, [callback, ...args]) as unknown;
          const isRepeated = name === "setInterval";
          const watched: Callback = function (...args) {
            if (!isRepeated) running.delete(timer);
            return Reflect.apply(callback, this, args) as unknown;
          };
          const timer: unknown = Reflect.apply(original, this, [watched, ...args]);
          running.add(timer);
          return timer;
        };
      });
    for (const name of CLEARS)
      this.#replace<Clear>(name, (original) => {
        const running = this.#running;
        return function (timer) {
          running.delete(timer);
          return Reflect.apply(original, this, [timer]) as unknown;
        };
      });
  }

  /** Whether a timer that keeps the process running has not ended. */
  get isPending(): boolean {
    for (const timer of this.#running) {
      const { hasRef } = Object(timer) as { readonly hasRef?: () => boolean };
      if (!hasRef || Reflect.apply(hasRef, timer, [])) return true;
    }
    return false;
  }

  /** Restores the functions of the global scope. */
  end(): void {
    for (const restore of this.#restore) restore();
  }

  #replace<Replaced extends Start | Clear>(name: string, watching: (original: Replaced) => Replaced): void {
    const original: unknown = Reflect.get(globalThis, name);
    if (typeof original !== "function") return;
    const replacement = watching(original as Replaced);
    // `util.promisify` finds its own version of a timer function here.
    Object.defineProperties(replacement, Object.getOwnPropertyDescriptors(original));
    Reflect.set(globalThis, name, replacement);
    this.#restore.push(() => {
      // Code may have replaced it too, such as by a test clock.
      if (Reflect.get(globalThis, name) === replacement) Reflect.set(globalThis, name, original);
    });
  }
}
