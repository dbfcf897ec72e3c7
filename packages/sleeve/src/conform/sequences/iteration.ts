import { isObject } from "../values/schema.ts";

/** How an iterator is read: to its end, stopped early, or with an error thrown into it. */
export type Reading = "all" | "return" | "throw";

/** The items read from an iterator, and how it ended. */
export class Iterated {
  readonly reading: Reading;
  readonly values: readonly unknown[];
  /** The value that it returned at its end, or when it was stopped. */
  readonly returned: unknown;
  /** The error that it threw. */
  readonly error: unknown;
  /** Whether it was stopped. Iterators need no methods for that. */
  readonly isStopped: boolean;
  readonly isAsync: boolean;

  constructor(
    reading: Reading,
    { values, returned, error, isStopped }: Pick<Iterated, "values" | "returned" | "error" | "isStopped">,
    isAsync: boolean,
  ) {
    this.reading = reading;
    this.values = values;
    this.returned = returned;
    this.error = error;
    this.isStopped = isStopped;
    this.isAsync = isAsync;
  }
}

/** Maximum number of items read from an iterator. */
export const MAX_ITEMS = 20;
/** Number of items read before an iterator is stopped. */
export const FEW_ITEMS = 2;
/** What an iterator is stopped with, or is thrown. */
export const STOPPED = "stopped";

const READINGS: readonly Reading[] = ["all", "return", "throw"];

/** Returns how the iterator of a step is read, so that each way occurs. */
export function readingOf(step: number): Reading {
  return READINGS[step % READINGS.length] ?? "all";
}

interface State {
  values: unknown[];
  returned: unknown;
  error: unknown;
  isStopped: boolean;
}

function emptyState(): State {
  return { values: [], returned: undefined, error: undefined, isStopped: false };
}

/** Reads a synchronous iterable. Each call of `next` sends its index. */
export function iteratedNow(iterable: Iterable<unknown>, reading: Reading): Iterated {
  const state = emptyState();
  try {
    const steps = readSteps(iterable[Symbol.iterator](), reading, state);
    for (let step = steps.next(); !step.done; ) step = steps.next(step.value());
  } catch (error) {
    state.error = error;
  }
  return new Iterated(reading, state, false);
}

/** Reads an asynchronous iterable. */
export async function iteratedLater(iterable: AsyncIterable<unknown>, reading: Reading): Promise<Iterated> {
  const state = emptyState();
  try {
    const steps = readSteps(iterable[Symbol.asyncIterator](), reading, state);
    for (let step = steps.next(); !step.done; ) step = steps.next(await step.value());
  } catch (error) {
    state.error = error;
  }
  return new Iterated(reading, state, true);
}

type AnyIterator = Iterator<unknown> | AsyncIterator<unknown>;

/** The calls of an iterator; each result, awaited if it is asynchronous, is sent back. */
function* readSteps(
  iterator: AnyIterator,
  reading: Reading,
  state: State,
): Generator<() => unknown, void, unknown> {
  const most = reading === "all" ? MAX_ITEMS : FEW_ITEMS;
  for (let at = 0; at < most; at += 1) {
    const result = yield () => iterator.next(at as never);
    if (!isObject(result)) return;
    const { done, value } = result as IteratorResult<unknown>;
    if (done) {
      state.returned = value;
      return;
    }
    state.values.push(value);
  }
  const stop = reading === "throw" ? iterator.throw : iterator.return;
  if (typeof stop !== "function") return;
  state.isStopped = true;
  const input = reading === "throw" ? new Error(STOPPED) : STOPPED;
  const result = yield () => Reflect.apply(stop as (given: unknown) => unknown, iterator, [input]) as unknown;
  if (isObject(result)) state.returned = (result as IteratorResult<unknown>).value;
}
