import { isThenable } from "../../shared/thenable.ts";
import { deepCopy, isPlain } from "../values/equality.ts";
import { isObject } from "../values/schema.ts";
import type { Fault, KnownCalls, Method } from "./fault.ts";

export const answers = (test: (answer: unknown) => boolean) => (calls: KnownCalls) =>
  calls.answers.some(test);
export const args = (test: (argument: unknown) => boolean) => (calls: KnownCalls) => calls.args.some(test);
export const isNumber = (value: unknown) => typeof value === "number";
export const isText = (value: unknown) => typeof value === "string" && value !== "";
export const isRecord = (value: unknown): value is Record<string, unknown> =>
  isObject(value) && !Array.isArray(value) && isPlain(value) && Object.keys(value).length > 0;
export const isList = (value: unknown): value is unknown[] => Array.isArray(value) && value.length > 0;

/** Changes a result, returned or promised. */
export function answer(change: (value: unknown) => unknown): Fault["change"] {
  return (next) =>
    (...args) => {
      const result = next(...args);
      return isThenable(result) ? result.then(change) : change(result);
    };
}

/** Changes the arguments before they are passed on. */
export function passing(change: (given: unknown[]) => unknown[]): Fault["change"] {
  return (next) =>
    (...args) =>
      next(...change(args));
}

/** Defines what happens if the call fails, synchronously or later. */
export function failing(instead: (error: unknown, again: () => unknown) => unknown): Fault["change"] {
  return (next) =>
    (...args) => {
      const again = () => next(...args);
      try {
        const result = next(...args);
        return isThenable(result)
          ? result.then(undefined, (error: unknown) => instead(error, again))
          : result;
      } catch (error) {
        return instead(error, again);
      }
    };
}

export function callbacks(change: (callback: Method) => Method): Fault["change"] {
  return passing((args) => args.map((item) => (typeof item === "function" ? change(item as Method) : item)));
}

/** Caches results by a key and never expires them. */
export function keeping(keyOf: (given: readonly unknown[]) => string): Fault["change"] {
  return (next) => {
    const cache = new Map<string, unknown>();
    return (...args) => {
      const key = keyOf(args);
      if (!cache.has(key)) cache.set(key, next(...args));
      return cache.get(key);
    };
  };
}

export function rethrow(error: unknown): never {
  throw error;
}

export const ifNumber = (change: (value: number) => unknown) => (value: unknown) =>
  typeof value === "number" ? change(value) : value;
export const ifText = (change: (value: string) => unknown) => (value: unknown) =>
  typeof value === "string" ? change(value) : value;
export const mapFirst = (change: (value: unknown) => unknown) => (args: unknown[]) =>
  args.map((item, at) => (at === 0 ? change(item) : item));
export const mapAll = (change: (value: unknown) => unknown) => (args: unknown[]) => args.map(change);

/** Runs one function the first time and another one from then on. */
export function once(next: Method, later: (first: unknown) => unknown): Method {
  let first: { readonly value: unknown } | undefined;
  return (...args) => {
    if (first) return later(first.value);
    first = { value: next(...args) };
    return first.value;
  };
}

/** Makes a call and ignores its failure. */
export function swallow(run: () => unknown): unknown {
  try {
    const result = run();
    if (isThenable(result)) result.then(undefined, () => {});
    return result;
  } catch {
    return undefined;
  }
}

export function keyText(value: unknown): string {
  try {
    return JSON.stringify(deepCopy(value, () => "an object")) ?? String(value);
  } catch {
    return String(value);
  }
}
