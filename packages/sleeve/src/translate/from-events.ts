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
  const items: Item[] = [];
  let ended: { readonly error?: unknown } | undefined;
  let wake = () => {};
  const finish = (how: { readonly error?: unknown }) => {
    ended ??= how;
    wake();
  };
  const listeners: (readonly [string, Listener])[] = [
    [
      item,
      (value) => {
        if (items.length >= maxBuffered) return finish({ error: tooMany(item, maxBuffered) });
        // The caller declares the type of items; the outside code delivers them unchecked.
        items.push(value as Item);
        wake();
      },
    ],
  ];
  if (end) listeners.push([end, () => finish({})]);
  if (error) listeners.push([error, (value) => finish({ error: value })]);
  const abort = () => finish({ error: signal?.reason });
  if (signal?.aborted) abort();
  signal?.addEventListener("abort", abort);
  for (const [event, listener] of listeners) listen(emitter, event, listener);
  try {
    for (;;) {
      while (items.length > 0) yield items.shift() as Item;
      if (ended && "error" in ended) throw ended.error;
      if (ended) return;
      await new Promise<void>((resolve) => {
        wake = resolve;
      });
    }
  } finally {
    signal?.removeEventListener("abort", abort);
    for (const [event, listener] of listeners) unlisten(emitter, event, listener);
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
