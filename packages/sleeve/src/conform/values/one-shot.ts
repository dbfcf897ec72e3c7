/** Iterators given as arguments, with what was read from them so far. */
const read = new WeakMap<object, unknown[]>();

/** Maximum number of items kept of one iterator. */
const MAX_ITEMS = 1000;

/** Whether a value is an iterator that can be read only once. */
export function isOneShot(value: object): value is Iterator<unknown> & Iterable<unknown> {
  if (typeof Reflect.get(value, "next") !== "function") return false;
  const iterate = Reflect.get(value, Symbol.iterator) as unknown;
  return typeof iterate === "function" && iterate.call(value) === value;
}

/** Returns the items of an iterator, which is read the first time. */
export function itemsOf(iterator: Iterator<unknown> & Iterable<unknown>): readonly unknown[] {
  let items = read.get(iterator);
  if (!items) {
    items = [];
    read.set(iterator, items);
    for (const item of iterator) {
      items.push(item);
      if (items.length === MAX_ITEMS) break;
    }
  }
  return items;
}

/** Returns an iterator of the same items. Each side of a comparison gets its own, because reading one empties it. */
export function freshIterator(iterator: Iterator<unknown> & Iterable<unknown>): IterableIterator<unknown> {
  return itemsOf(iterator)[Symbol.iterator]();
}
