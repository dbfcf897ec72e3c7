import { apply, isArray, tagText } from "../shared/intrinsics.ts";

/**
 * Returns the built-in tag that only internal slots reveal: `Date`, `RegExp`, `Error`, a boxed primitive. A
 * wrapper must report it itself.
 */
export function tagOf(value: object): string | undefined {
  if (typeof value === "function" || isArray(value) || Symbol.toStringTag in value) return undefined;
  const text = tagText(value);
  return text === "[object Object]" ? undefined : tagName(text);
}

function tagName(text: string): string {
  let name = "";
  for (let index = "[object ".length; index < text.length - 1; index++) name += text[index];
  return name;
}

const mapForEach: unknown = /* @__PURE__ */ (() => Map.prototype.forEach)();
const setForEach: unknown = /* @__PURE__ */ (() => Set.prototype.forEach)();

/**
 * Whether a function is a `forEach` of a built-in collection, which passes the collection to its callback.
 */
export function isForEach(fn: unknown): boolean {
  return fn === mapForEach || fn === setForEach;
}

/**
 * Returns arguments for such a `forEach` that pass the wrapper to the callback in place of the collection.
 */
export function replaceCallbackSubject(wrapper: object, args: readonly unknown[]): unknown[] {
  const callback = args[0];
  const receiver = args[1];
  if (typeof callback !== "function") return [callback, receiver];
  return [
    (value: unknown, key: unknown) => apply(callback as never, receiver, [value, key, wrapper] as never),
  ];
}
