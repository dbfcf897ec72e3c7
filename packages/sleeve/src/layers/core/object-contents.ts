import {
  addTo,
  apply,
  defineProperty,
  every,
  getOwnPropertyDescriptor,
  getPrototypeOf,
  ownKeys,
  tagText,
} from "../../shared/intrinsics.ts";
import { sliceText } from "../../shared/patterns.ts";

/** A named value. Not a pair, which would be read by an iterator that a client can replace. */
export interface Entry {
  readonly key: string;
  readonly value: unknown;
}

const OBJECT = /* @__PURE__ */ (() => Object.prototype as object)();

export const ERROR = /* @__PURE__ */ (() => Error.prototype as object)();

const setForEach = /* @__PURE__ */ (() => Set.prototype.forEach)();

/** Returns the nearest prototype of an error that, like those above it, has no accessors. */
export function prototypeWithoutAccessors(error: Error): object {
  let nearest: object | undefined;
  for (let holder = getPrototypeOf(error); holder && holder !== ERROR; holder = getPrototypeOf(holder)) {
    const at = holder;
    const isPlainHolder = every(ownKeys(at), (key) => {
      const descriptor = getOwnPropertyDescriptor(at, key);
      return !descriptor?.get && !descriptor?.set;
    });
    nearest = isPlainHolder ? (nearest ?? holder) : undefined;
  }
  return nearest ?? ERROR;
}

export function tagOf(value: object): string {
  const text = tagText(value);
  return sliceText(text, "[object ".length, text.length - 1);
}

export function classNameOf(value: object): string {
  const Class: unknown = (getPrototypeOf(value) as { constructor?: unknown } | null)?.constructor;
  const name: unknown = (Class as { name?: unknown } | undefined)?.name;
  return typeof name === "string" && name ? name : "Object";
}

export function enumerableKeys(value: object): readonly PropertyKey[] {
  const keys: PropertyKey[] = objectKeys(value);
  const symbols = objectSymbols(value);
  for (let index = 0; index < symbols.length; index++) {
    const key = symbols[index] as symbol;
    if (getOwnPropertyDescriptor(value, key)?.enumerable) addTo(keys, key);
  }
  return keys;
}

const objectKeys = Object.keys;

const objectSymbols = Object.getOwnPropertySymbols;

export function isPlain(value: object): boolean {
  const prototype: unknown = getPrototypeOf(value);
  return prototype === null || prototype === OBJECT;
}

export function nameOfKey(key: unknown): string {
  if (typeof key === "symbol") return key.description ?? "";
  return typeof key === "object" ? "" : `${key}`;
}

export function numberText(index: number): string {
  return `${index}`;
}

/** Sets an own property, also one named `__proto__`, which an assignment takes for the prototype. */
export function setOwn(copy: object, key: PropertyKey, value: unknown): void {
  defineProperty(copy, key, { value, enumerable: true, configurable: true, writable: true });
}

export function itemsOf(set: object): unknown[] {
  const items: unknown[] = [];
  apply(setForEach, set, [(item: unknown) => addTo(items, item)] as never);
  return items;
}

/** The entries of `Headers` and similar objects of the host. */
export interface Entries {
  forEach(each: (value: unknown, key: string) => void): void;
}

export function entriesOf(list: Entries): Entry[] {
  const entries: Entry[] = [];
  list.forEach((value, key) => {
    addTo(entries, { key, value });
  });
  return entries;
}
