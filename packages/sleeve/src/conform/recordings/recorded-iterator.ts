import { SleeveError } from "../../shared/errors.ts";
import { isIterator } from "../values/schema.ts";

/** What was read from an iterator, in recorded form. It grows while the client reads. */
export interface RecordedItems {
  readonly items: unknown[];
  /** The value that it returned at its end, or when the client stopped it. */
  returned?: unknown;
  /** The error that it threw. */
  error?: unknown;
  /** How it ended: read to its end, stopped by the client, failed, or not at all. */
  end: "done" | "stopped" | "failed" | "none";
}

type AnyIterator = Iterator<unknown> & Iterable<unknown>;
type AnyAsyncIterator = AsyncIterator<unknown> & AsyncIterable<unknown>;

/** Whether a value is an iterator that a client reads, such as of a generator. */
export function isRecordableIterator(value: unknown): value is AnyIterator | AnyAsyncIterator {
  return isIterator(value) && (isSync(value as object) || Symbol.asyncIterator in (value as object));
}

export function isSync(value: object): value is AnyIterator {
  return Symbol.iterator in value;
}

/** Returns a generator that passes every call on to an iterator, and records what comes out. */
export function tapedIterator(
  iterator: AnyIterator | AnyAsyncIterator,
  record: RecordedItems,
  newValue: (value: unknown) => unknown,
): AnyIterator | AnyAsyncIterator {
  let isStopped = false;
  const stop = (value: unknown) => {
    isStopped = true;
    return iterator.return?.(value) as never;
  };
  const tape = (result: IteratorResult<unknown>): IteratorResult<unknown> => {
    if (!result.done) record.items.push(newValue(result.value));
    else {
      record.returned = newValue(result.value);
      record.end = isStopped ? "stopped" : "done";
    }
    return result;
  };
  const fail = (error: unknown): never => {
    record.error = newValue(error);
    record.end = "failed";
    throw error;
  };
  return isSync(iterator) ? tapedSync(iterator, stop, tape, fail) : tapedAsync(iterator, stop, tape, fail);
}

type Stop = (value: unknown) => never;
type Tape = (result: IteratorResult<unknown>) => IteratorResult<unknown>;
type Fail = (error: unknown) => never;

function tapedSync(iterator: AnyIterator, stop: Stop, tape: Tape, fail: Fail): AnyIterator {
  const taped = (run: () => IteratorResult<unknown>): IteratorResult<unknown> => {
    let result: IteratorResult<unknown>;
    try {
      result = run();
    } catch (error) {
      return fail(error);
    }
    return tape(result);
  };
  const throwing = iterator.throw?.bind(iterator);
  return syncGenerator({
    next: (...sent) => taped(() => iterator.next(...sent)),
    ...(iterator.return && { return: (value: unknown) => taped(() => stop(value)) }),
    ...(throwing && { throw: (error: unknown) => taped(() => throwing(error)) }),
  });
}

function tapedAsync(iterator: AnyAsyncIterator, stop: Stop, tape: Tape, fail: Fail): AnyAsyncIterator {
  const throwing = iterator.throw?.bind(iterator);
  const taped = (result: Promise<IteratorResult<unknown>>) => result.then(tape, fail);
  return asyncGenerator({
    next: (...sent) => taped(iterator.next(...sent)),
    ...(iterator.return && { return: (value: unknown) => taped(stop(value)) }),
    ...(throwing && { throw: (error: unknown) => taped(throwing(error)) }),
  });
}

function* syncGenerator(iterator: Iterator<unknown>): Generator<unknown, unknown, never> {
  return yield* { [Symbol.iterator]: () => iterator as Iterator<unknown, unknown, never> };
}

async function* asyncGenerator(iterator: AsyncIterator<unknown>): AsyncGenerator<unknown, unknown, never> {
  return yield* { [Symbol.asyncIterator]: () => iterator as AsyncIterator<unknown, unknown, never> };
}

/** Reads an iterator as far as another one was read when it was recorded. */
export async function readAsRecorded(iterator: unknown, recorded: unknown): Promise<void> {
  const { is } = (recorded ?? {}) as { readonly is?: Partial<RecordedItems> };
  if (!isRecordableIterator(iterator) || !Array.isArray(is?.items)) return;
  const { end } = is;
  const reads = is.items.length + (end === "done" || end === "failed" ? 1 : 0);
  try {
    for (let at = 0; at < reads; at += 1) if ((await iterator.next()).done) return;
    if (end === "stopped") await iterator.return?.();
  } catch {
    // The error is in the new recording.
  }
}

/**
 * Returns a generator of recorded items.
 *
 * @throws {SleeveError} `NOT_RECORDED`, when it is read further than it was recorded
 */
export function playedIterator(
  { items, returned, error, end }: RecordedItems,
  isAsync: boolean,
): AnyIterator | AnyAsyncIterator {
  const finish = (): unknown => {
    if (end === "failed") throw error;
    if (end !== "done") throw notRecorded(items.length);
    return returned;
  };
  return isAsync ? playedAsync(items, finish) : playedSync(items, finish);
}

function* playedSync(items: readonly unknown[], finish: () => unknown): Generator<unknown, unknown, never> {
  yield* items;
  return finish();
}

async function* playedAsync(
  items: readonly unknown[],
  finish: () => unknown,
): AsyncGenerator<unknown, unknown, never> {
  yield* items;
  return finish();
}

function notRecorded(items: number): SleeveError {
  return new SleeveError(
    "NOT_RECORDED",
    `The recording has ${items} ${items === 1 ? "item" : "items"} of this iterator. Record it again, and read it to its end.`,
  );
}
