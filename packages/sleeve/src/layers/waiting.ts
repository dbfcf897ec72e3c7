import { SleeveError } from "../errors.ts";
import type { Call, Layer, Next } from "../forward/call.ts";
import { type Clock, hostClock, pause, type Signal } from "./clock.ts";
import { layer } from "./layer.ts";
import { type Duration, millisecondsOf } from "./options.ts";
import type { Promising, PromisingOptions } from "./promising.ts";
import { reportOnce } from "./report.ts";

/** How long a client had to wait. */
export interface Waited {
  readonly member: string;
  /** From the call until a result satisfied the condition, or the deadline. */
  readonly milliseconds: number;
  readonly attempts: number;
  readonly satisfied: boolean;
}

export interface WaitingOptions<Key extends PropertyKey> extends PromisingOptions<Key> {
  /** The condition that a result has to satisfy. */
  readonly until: (result: never) => boolean;
  /** How long to wait before asking again. 100 ms, unless given. */
  readonly every?: Duration;
  /** How long to go on asking. 10 s, unless given. */
  readonly atMost?: Duration;
  /** Is told of each call how long it waited, so that it can be compared with the fixed pause it replaces. */
  readonly to?: (waited: Waited) => void;
  readonly signal?: Signal;
  readonly clock?: Clock;
}

/** A result did not come to satisfy its condition in time. */
export class NeverSatisfied extends SleeveError {
  /** The last result that came. */
  readonly lastSeen: unknown;

  constructor(message: string, lastSeen: unknown) {
    super("NEVER_SATISFIED", message);
    this.lastSeen = lastSeen;
  }
}

/**
 * Asks again until the result satisfies a condition, instead of pausing for a fixed time and hoping. An error ends
 * the waiting; put {@link retrying} inside to ask again after one.
 *
 * Sync stays sync: a result that is no promise is given back as it is.
 *
 * @throws {NeverSatisfied} `NEVER_SATISFIED`, with what was last seen
 * @example
 * import { decorate, waiting } from "sleeve";
 *
 * const gauge = { level: async (): Promise<number | undefined> => 3.1 };
 * const settled = waiting({ only: ["level"], until: (metres?: number) => metres !== undefined, atMost: "5s" });
 * await decorate(gauge, settled).level();
 */
export function waiting<Key extends PropertyKey = never>(
  options: WaitingOptions<Key>,
): Layer<Promising<NoInfer<Key>>> {
  const { only, to, signal, clock = hostClock } = options;
  const until = options.until as (result: unknown) => boolean;
  const every = millisecondsOf(options.every ?? 100, "waiting: every");
  const atMost = millisecondsOf(options.atMost ?? "10s", "waiting: atMost");
  const report = reportOnce("waiting");
  const tell = (waited: Waited) => {
    try {
      to?.(waited);
    } catch (error) {
      report(error);
    }
  };

  const ask = async (next: Next, call: Call, first: Promise<unknown>, start: number): Promise<unknown> => {
    const member = call.member.label;
    let seen: unknown = SILENT;
    let answer: unknown = first;
    for (let attempts = 1; ; attempts++) {
      const result = await orSilence(answer, clock, atMost - (clock.now() - start));
      if (result !== SILENT) seen = result;
      const milliseconds = clock.now() - start;
      const satisfied = result !== SILENT && until(result);
      if (satisfied || result === SILENT || milliseconds + every > atMost) {
        tell({ member, milliseconds, attempts, satisfied });
        if (satisfied) return result;
        const lastSeen = seen === SILENT ? "nothing" : brief(seen);
        throw new NeverSatisfied(
          `${member} gave no result that satisfies the condition within ${atMost} ms and ${attempts} attempts. ` +
            `Last seen: ${lastSeen}. Wait longer with \`atMost\`, or look into the condition.`,
          seen === SILENT ? undefined : seen,
        );
      }
      await pause(clock, every, signal);
      answer = next(call);
    }
  };
  return layer<Promising<Key>>(
    "waiting",
    {
      call: (next) => (call) => {
        const start = clock.now();
        const first = next(call);
        return first instanceof Promise ? ask(next, call, first, start) : first;
      },
    },
    only ? { only } : {},
  );
}

/** What stands for an answer that did not come. */
const SILENT = Symbol("silent");

/** Waits for an answer for so many milliseconds and no longer. */
function orSilence(answer: unknown, clock: Clock, milliseconds: number): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const callOff = clock.after(Math.max(0, milliseconds), () => resolve(SILENT));
    Promise.resolve(answer).finally(callOff).then(resolve, reject);
  });
}

function brief(result: unknown): string {
  let text: string | undefined;
  try {
    text = JSON.stringify(result);
  } catch {
    // What cannot be written as JSON is told of by its kind.
  }
  const words = text ?? String(result);
  return words.length > 120 ? `${words.slice(0, 120)}…` : words;
}
