import { SleeveError } from "../errors.ts";
import type { Signal } from "../layers/clock.ts";

type Listener = (...values: unknown[]) => void;

/** What emits events: with `on` and `off`, or as an `EventTarget`. */
export type Emitter =
  | { on(event: string, listener: Listener): unknown; off(event: string, listener: Listener): unknown }
  | {
      addEventListener(event: string, listener: Listener): unknown;
      removeEventListener(event: string, listener: Listener): unknown;
    };

export interface EventNames {
  /** The event that brings an item, as its first argument. */
  readonly item: string;
  /** The event after which there are no more. */
  readonly end?: string;
  /** The event that brings an error, as its first argument. */
  readonly error?: string;
}

export interface EventOptions {
  /** Ends the iteration with the signal's reason. */
  readonly signal?: Signal;
  /** How many items may wait to be taken; one more fails with `QUEUE_FULL`. As many as come, unless given. */
  readonly most?: number;
}

/**
 * Turns the events of an emitter into an async iterator. It listens from the first step until it is returned from, ends
 * or fails, and then lets go of the emitter.
 *
 * @throws {SleeveError} `QUEUE_FULL` from the iterator where more items wait than `most`
 * @example
 * import { EventEmitter } from "node:events";
 * import { fromEvents } from "sleeve";
 *
 * const feed = new EventEmitter();
 * for await (const level of fromEvents<number>(feed, { item: "reading", end: "shutdown" })) {
 *   if (level > 4) break; // stops listening
 * }
 */
export async function* fromEvents<Item>(
  emitter: Emitter,
  { item, end, error }: EventNames,
  { signal, most = Number.POSITIVE_INFINITY }: EventOptions = {},
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
        if (items.length >= most) return finish({ error: tooMany(item, most) });
        // What the event brings is between the outside code and the type that the caller names.
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

function tooMany(item: string, most: number): SleeveError {
  const message = `More than ${most} of the event "${item}" are waiting to be taken. Take them faster, or let more wait with \`most\`.`;
  return new SleeveError("QUEUE_FULL", message);
}
