import { apply, defineProperty, ownKeys } from "./intrinsics.ts";

/**
 * Text functions that a client cannot replace later: the methods of strings call those of patterns, so each pattern has its
 * own.
 */

const exec = /* @__PURE__ */ (() => RegExp.prototype.exec)();
const replace = /* @__PURE__ */ (() => RegExp.prototype[Symbol.replace])();

/** Gives a pattern the functions by which the language applies it as own properties. Returns the pattern. */
export function hardened(pattern: RegExp): RegExp {
  const { flags, source } = pattern;
  const copy = new NativeRegExp(source, flags);
  const properties = {
    exec,
    flags,
    global: pattern.global,
    unicode: pattern.unicode,
    [Symbol.replace]: replace,
  };
  for (const key of ownKeys(properties) as (keyof typeof properties)[])
    defineProperty(copy, key, { value: properties[key] });
  return copy;
}

/** As it was when the library was loaded. */
export const NativeRegExp = RegExp;

/** Whether a pattern occurs in a text. */
export function testPattern(pattern: RegExp, text: string): boolean {
  pattern.lastIndex = 0;
  return apply(exec, pattern, [text]) !== null;
}

type Replacement = string | ((whole: string, ...groups: never[]) => string);

/** Replaces the matches of a pattern: the first, or all of one with the flag `g`. */
export function replaceAll(text: string, pattern: RegExp, replacement: Replacement): string {
  pattern.lastIndex = 0;
  return apply(replace, pattern, [text, replacement as string]);
}

const toLowerCase = /* @__PURE__ */ (() => String.prototype.toLowerCase)();
const slice = /* @__PURE__ */ (() => String.prototype.slice)();

export function lowerCase(text: string): string {
  return apply(toLowerCase, text, []);
}

export function sliceText(text: string, start: number, end: number): string {
  return apply(slice, text, [start, end]);
}
