import {
  createObject,
  defineProperty,
  getOwnPropertyDescriptor,
  getPrototypeOf,
  isArray,
  isSame,
  ownKeys,
} from "../shared/intrinsics.ts";

/**
 * Returns arguments with the subject in place of its wrapper, which a client passes back to code of the subject: as an
 * argument, or in a list or options object among them.
 *
 * A list or object that contains the wrapper is copied; all others pass by identity. No getter is called.
 */
export function exchanged(args: readonly unknown[], wrapper: unknown, subject: unknown): readonly unknown[] {
  if (areOfNoInterest(args)) return args;
  const search = { wrapper, subject, remaining: MAX_VALUES };
  let changed: unknown[] | undefined;
  for (let index = 0; index < args.length; index++) {
    const value = exchangedIn(args[index], search, 0);
    if (isSame(value, args[index])) continue;
    changed ??= args.slice();
    changed[index] = value;
  }
  return changed ?? args;
}

/** Whether no argument is an object, as most are. */
function areOfNoInterest(args: readonly unknown[]): boolean {
  for (let index = 0; index < args.length; index++) if (typeof args[index] === "object") return false;
  return true;
}

/** Maximum number of values that are looked at in the arguments of one call. */
const MAX_VALUES = 256;
const MAX_DEPTH = 3;

interface Search {
  readonly wrapper: unknown;
  readonly subject: unknown;
  remaining: number;
}

function exchangedIn(value: unknown, search: Search, depth: number): unknown {
  if (typeof value !== "object" || value === null) return value;
  if (value === search.wrapper) return search.subject;
  if (depth === MAX_DEPTH || !isPlain(value)) return value;
  const keys = ownKeys(value);
  let copy: object | undefined;
  for (let index = 0; index < keys.length && search.remaining > 0; index++) {
    search.remaining -= 1;
    const key = keys[index] as string;
    const descriptor = getOwnPropertyDescriptor(value, key);
    const propertyValue: unknown = descriptor?.value;
    const exchangedValue = exchangedIn(propertyValue, search, depth + 1);
    if (isSame(exchangedValue, propertyValue)) continue;
    copy ??= copyOf(value);
    defineProperty(copy, key, { ...descriptor, value: exchangedValue });
  }
  return copy ?? value;
}

function isPlain(value: object): boolean {
  const prototype = getPrototypeOf(value);
  return (
    prototype === Object.prototype || prototype === null || (isArray(value) && prototype === Array.prototype)
  );
}

function copyOf(value: object): object {
  const copy: object = isArray(value) ? [] : createObject(getPrototypeOf(value));
  const keys = ownKeys(value);
  for (let index = 0; index < keys.length; index++) {
    const key = keys[index] as string;
    defineProperty(copy, key, getOwnPropertyDescriptor(value, key) as PropertyDescriptor);
  }
  return copy;
}
