import { host } from "./host.ts";

/** A value that is current while a function runs. */
export interface Context<Value> {
  current(): Value | undefined;
  run<Result>(value: Value, within: () => Result): Result;
}

interface AsyncLocalStorage<Value> {
  getStore(): Value | undefined;
  run<Result>(value: Value, within: () => Result): Result;
}

type AsyncHooks = { readonly AsyncLocalStorage: new <Value>() => AsyncLocalStorage<Value> };

/**
 * Creates a context. In Node.js the value is kept across awaits; in browsers, until the function returns.
 *
 * The host's storage is created at first use, because it takes a while and most programs do not log.
 */
export function createContext<Value>(): Context<Value> {
  let context: Context<Value> | undefined;
  const resolved = () => {
    context ??= asyncContext() ?? syncContext();
    return context;
  };
  return { current: () => resolved().current(), run: (value, within) => resolved().run(value, within) };
}

function asyncContext<Value>(): Context<Value> | undefined {
  const hooks = host.process?.getBuiltinModule?.("node:async_hooks") as AsyncHooks | undefined;
  if (!hooks) return undefined;
  const storage = new hooks.AsyncLocalStorage<Value>();
  return { current: () => storage.getStore(), run: (value, within) => storage.run(value, within) };
}

function syncContext<Value>(): Context<Value> {
  let current: Value | undefined;
  return {
    current: () => current,
    run(value, within) {
      const before = current;
      current = value;
      try {
        return within();
      } finally {
        current = before;
      }
    },
  };
}
