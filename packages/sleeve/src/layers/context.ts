import { host } from "../host.ts";

/** A value that holds for whatever runs within a call. */
export interface Context<Value> {
  current(): Value | undefined;
  run<Result>(value: Value, within: () => Result): Result;
}

interface AsyncLocalStorage<Value> {
  getStore(): Value | undefined;
  run<Result>(value: Value, within: () => Result): Result;
}

type AsyncHooks = { readonly AsyncLocalStorage: new <Value>() => AsyncLocalStorage<Value> };

/** Makes a context. In Node.js it holds across awaits; in the browser, until the call returns. */
export function createContext<Value>(): Context<Value> {
  const hooks = host.process?.getBuiltinModule?.("node:async_hooks") as AsyncHooks | undefined;
  if (hooks) {
    const storage = new hooks.AsyncLocalStorage<Value>();
    return { current: () => storage.getStore(), run: (value, within) => storage.run(value, within) };
  }
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
