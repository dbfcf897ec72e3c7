import { getPrototypeOf, PrivateWeakMap, setPrototypeOf, sourceText } from "../shared/intrinsics.ts";
import type { Callable, Member } from "./member.ts";

/**
 * What is known of the function behind a member, besides its signature. Kept apart from the member, because layers see
 * members, and a layer of a client's own must not get the subject's function.
 */

type Signature = NonNullable<Member["signature"]>;

const signatures = /* @__PURE__ */ new PrivateWeakMap<Callable, Signature>();
const functions = /* @__PURE__ */ new PrivateWeakMap<Signature, Callable>();

/** Returns the signature of a function, by which `functionOf` finds it. */
export function signatureOf(fn: Callable): Signature {
  const cached = signatures.get(fn);
  if (cached?.name === fn.name) return cached;
  const signature = { name: fn.name, length: fn.length };
  signatures.set(fn, signature);
  functions.set(signature, fn);
  return signature;
}

/** A function with the parameters of another, after some that the other one has in front. */
interface Likeness {
  readonly original: Callable;
  readonly skipped: number;
}

const likenesses = /* @__PURE__ */ new PrivateWeakMap<Callable, Likeness>();

/**
 * Records that a function represents another one, so that its parameters and its asynchrony are known.
 *
 * @param skipped number of first parameters of the original that callers do not pass
 */
export function registerLikeness(fn: Callable, original: Callable, skipped = 0): void {
  likenesses.set(fn, { original, skipped });
  if (isAsyncFunction(original) && !isAsyncFunction(fn)) setPrototypeOf(fn, getPrototypeOf(original));
}

/** Returns the function behind a member, if all objects with that member share it. */
export function functionOf({ signature }: Member): Callable | undefined {
  return signature && functions.get(signature);
}

/**
 * Returns the names of a function's parameters, from its source. `undefined` for a parameter without a name, such as a
 * destructured one. Returns `undefined` if the source is not known.
 */
export function parameterNames(fn: Callable): readonly (string | undefined)[] | undefined {
  const like = likenesses.get(fn);
  if (like) return parameterNames(like.original)?.slice(like.skipped);
  const list = parameterList(sourceText(fn));
  // A rest parameter has a name, but it is not that of an argument.
  return list?.map((parameter) => /^([\p{ID_Start}$_][\p{ID_Continue}$]*)/u.exec(parameter)?.[1]);
}

/** Returns the source of each parameter of a function, or `undefined` for one that this simple reader does not understand. */
function parameterList(source: string): readonly string[] | undefined {
  if (source.endsWith("{ [native code] }")) return undefined;
  const text = withoutComments(source.slice(0, MAX_HEAD));
  const single = /^(?:async\s+)?([\p{ID_Start}$_][\p{ID_Continue}$]*)\s*=>/u.exec(text)?.[1];
  if (single) return [single];
  // A computed key of a method may contain parentheses of its own.
  const start = text.indexOf("(", /^(?:async\s*)?\*?\s*\[/.test(text) ? text.indexOf("](") : 0);
  return start < 0 ? undefined : dividedList(text.slice(start));
}

/** Divides a list in parentheses at its commas; `undefined` if it does not end. */
function dividedList(text: string): readonly string[] | undefined {
  const items: string[] = [];
  let depth = 0;
  let current = "";
  const add = (): void => {
    if (current.trim()) items.push(current.trim());
    current = "";
  };
  for (const character of text) {
    if ("([{".includes(character)) depth += 1;
    if (")]}".includes(character)) depth -= 1;
    if (depth === 0) {
      add();
      return items;
    }
    if (depth === 1 && character === ",") add();
    else if (depth > 1 || character !== "(") current += character;
  }
  return undefined;
}

/** Returns the head of a function without comments and texts. A template or a regular expression ends the reading. */
function withoutComments(source: string): string {
  let text = "";
  for (let rest = source; rest !== ""; ) {
    const [skipped = ""] =
      /^(?:\/\*[\s\S]*?\*\/|\/\/[^\n]*|"(?:\\.|[^"\\])*"|'(?:\\.|[^'\\])*')/.exec(rest) ?? [];
    if (skipped === "" && (rest[0] === "/" || rest[0] === "`")) return text;
    text += skipped === "" ? rest[0] : " ";
    rest = rest.slice(skipped.length || 1);
  }
  return text;
}

/** Number of characters within which the parameters of a function must end. */
const MAX_HEAD = 4000;

const ASYNC_FUNCTION = /* @__PURE__ */ (() => getPrototypeOf(async () => {}))();

/** Whether a function is declared `async`. Compilers for old targets write such functions out as others. */
export function isAsyncFunction(fn: Callable): boolean {
  return getPrototypeOf(fn) === ASYNC_FUNCTION;
}
