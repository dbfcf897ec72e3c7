import type { Signal } from "../shared/cancellation.ts";
import { SleeveError } from "../shared/errors.ts";

type Listener = (...values: unknown[]) => void;

/** An event emitter with `on` and `off`, or an `EventTarget`. */
export type Emitter =
  | { on(event: string, listener: Listener): unknown; off(event: string, listener: Listener): unknown }
  | {
      addEventListener(event: string, listener: Listener): unknown;
      removeEventListener(event: string, listener: Listener): unknown;
    };

export interface EventNames {
  /** The event that delivers an item as its first argument. */
  readonly item: string;
  /** The event after which no items follow. Default: none. */
  readonly end?: string;
  /** The event that delivers an error as its first argument. Default: none. */
  readonly error?: string;
}

export interface EventOptions {
  /** Ends the iteration with the signal's reason. */
  readonly signal?: Signal;
  /** Maximum number of buffered items; one more fails with `QUEUE_FULL`. Default: unlimited. */
  readonly maxBuffered?: number;
}

/**
 * Turns the events of an emitter into an async iterator. It listens from the first step until it returns,
 * ends or fails, and then removes its listeners.
 *
 * @throws {SleeveError} `QUEUE_FULL` from the iterator if more than `maxBuffered` items wait
 * @example
 * import { EventEmitter } from "node:events";
 * import { fromEvents } from "sleeve";
 *
 * const feed = new EventEmitter();
 * setTimeout(() => feed.emit("reading", 4.2), 10);
 * for await (const level of fromEvents<number>(feed, { item: "reading", end: "shutdown" })) {
 *   if (level > 4) break; // stops listening
 * }
 */
export async function* fromEvents<Item>(
  emitter: Emitter,
  { item, end, error }: EventNames,
  { signal, maxBuffered = Number.POSITIVE_INFINITY }: EventOptions = {},
): AsyncGenerator<Item, void, undefined> {
  const buffer = new EventBuffer<Item>();
  const add = (value: unknown): void => {
    // The caller declares the type of items; the outside code delivers them unchecked.
    if (buffer.size < maxBuffered) buffer.add(value as Item);
    else buffer.end({ error: tooMany(item, maxBuffered) });
  };
  const listeners: (readonly [string, Listener])[] = [[item, add]];
  if (end) listeners.push([end, () => buffer.end({})]);
  if (error) listeners.push([error, (value) => buffer.end({ error: value })]);
  const abort = () => buffer.end({ error: signal?.reason });
  if (signal?.aborted) abort();
  signal?.addEventListener("abort", abort);
  for (const [event, listener] of listeners) listen(emitter, event, listener);
  try {
    yield* buffer.items();
  } finally {
    signal?.removeEventListener("abort", abort);
    for (const [event, listener] of listeners) unlisten(emitter, event, listener);
  }
}

/** Items that wait for the reader of an iterator. */
class EventBuffer<Item> {
  readonly #items: Item[] = [];
  #ended: { readonly error?: unknown } | undefined;
  #wake = () => {};

  get size(): number {
    return this.#items.length;
  }

  add(item: Item): void {
    this.#items.push(item);
    this.#wake();
  }

  /** The first end counts. Items before it are still read. */
  end(outcome: { readonly error?: unknown }): void {
    this.#ended ??= outcome;
    this.#wake();
  }

  async *items(): AsyncGenerator<Item, void, undefined> {
    for (;;) {
      while (this.#items.length > 0) yield this.#items.shift() as Item;
      if (this.#ended && "error" in this.#ended) throw this.#ended.error;
      if (this.#ended) return;
      await new Promise<void>((resolve) => {
        this.#wake = resolve;
      });
    }
  }
}

function listen(emitter: Emitter, event: string, listener: Listener): void {
  if ("on" in emitter) emitter.on(event, listener);
  else emitter.addEventListener(event, listener);
}

function unlisten(emitter: Emitter, event: string, listener: Listener): void {
  if ("on" in emitter) emitter.off(event, listener);
  else emitter.removeEventListener(event, listener);
}

function tooMany(item: string, maxBuffered: number): SleeveError {
  const message = `More than ${maxBuffered} events "${item}" are buffered. Consume them faster, or raise \`maxBuffered\`.`;
  return new SleeveError("QUEUE_FULL", message);
}
