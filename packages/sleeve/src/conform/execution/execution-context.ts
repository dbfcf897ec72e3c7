import { host } from "../../shared/host.ts";

interface Storage {
  disable(): void;
  run<Result>(value: string, run: () => Result): Result;
  getStore(): string | undefined;
}

/**
 * Knows whose code is running, also after awaits: the subject's or its wrapper's. Only Node.js can follow a
 * call across awaits; elsewhere only synchronous code is attributed.
 */
export class ExecutionContext {
  readonly #storage = storage();
  readonly #callbacks = new WeakMap<object, unknown>();
  #here: string | undefined;

  get isInSubject(): boolean {
    return (this.#storage ? this.#storage.getStore() : this.#here) === "subject";
  }

  inSubject<Result>(run: () => Result): Result {
    return this.#at("subject", run);
  }

  /** Returns a callback for a subject: the code in it belongs to the caller who passed it. */
  readonly callback = (input: unknown): unknown => {
    if (typeof input !== "function") return input;
    const cached = this.#callbacks.get(input);
    if (cached) return cached;
    const context = this;
    const callback = function (this: unknown, ...args: unknown[]): unknown {
      return context.#at("wrapper", () => Reflect.apply(input, this, args) as unknown);
    };
    this.#callbacks.set(input, callback);
    return callback;
  };

  /** Stops tracking, which otherwise slows down every promise of the program. */
  end(): void {
    this.#storage?.disable();
  }

  #at<Result>(place: string, run: () => Result): Result {
    if (this.#storage) return this.#storage.run(place, run);
    const before = this.#here;
    this.#here = place;
    try {
      return run();
    } finally {
      this.#here = before;
    }
  }
}

function storage(): Storage | undefined {
  const hooks = host.process?.getBuiltinModule?.("node:async_hooks") as
    | { readonly AsyncLocalStorage: new () => Storage }
    | undefined;
  return hooks && new hooks.AsyncLocalStorage();
}
