import type { Call, Layer, Next } from "../forward/call.ts";
import { pause, type Signal } from "../shared/cancellation.ts";
import { type Clock, hostClock } from "../shared/clock.ts";
import { SleeveError } from "../shared/errors.ts";
import { type Duration, millisecondsOf, requireFunction, requireOptions } from "../shared/options.ts";
import { reportOnce } from "../shared/report-once.ts";
import { handleRejection } from "../shared/thenable.ts";
import {
  type AsyncKey,
  type AsyncMembers,
  type AsyncMembersOptions,
  callUnlessAborted,
} from "./async-members.ts";
import { layer } from "./layer.ts";

/** How long a call had to wait. */
export interface WaitReport {
  readonly member: string;
  /** Time from the call until a result satisfied the condition, or until the timeout, in milliseconds. */
  readonly milliseconds: number;
  readonly attempts: number;
  readonly satisfied: boolean;
}

export interface WaitingOptions<Key extends PropertyKey> extends AsyncMembersOptions<Key> {
  /** The condition that a result must satisfy. */
  readonly until: (result: never) => boolean;
  /** Delay between attempts. Default: 100 ms. */
  readonly interval?: Duration;
  /** Maximum time to wait. Default: 10 s. */
  readonly timeout?: Duration;
  /** Receives the wait of each call, to compare it with the fixed pause that it replaces. */
  readonly onWait?: (waited: WaitReport) => void;
  /**
   * Ends the wait, also while a call or a delay is in progress: the promise rejects with the reason of the signal at once. A
   * call that is made after the signal was aborted does not reach the subject. Default: none.
   */
  readonly signal?: Signal;
  readonly clock?: Clock;
}

/** No result satisfied the condition in time. */
export class NeverSatisfied extends SleeveError {
  /** The last result. */
  readonly lastSeen: unknown;

  constructor(message: string, lastSeen: unknown) {
    super("NEVER_SATISFIED", message);
    this.lastSeen = lastSeen;
  }
}

/**
 * Calls a member again until its result satisfies a condition, instead of pausing for a fixed time. An error
 * ends the wait; put {@link retrying} inside to retry after errors.
 *
 * A member stays synchronous: a result that is not a promise is returned unchanged.
 *
 * @throws {NeverSatisfied} `NEVER_SATISFIED`, with the last result
 * @example
 * import { decorate, waiting } from "sleeve";
 *
 * const gauge = { level: async (): Promise<number | undefined> => 3.1 };
 * const settled = waiting({ only: ["level"], until: (metres?: number) => metres !== undefined, timeout: "5s" });
 * await decorate(gauge, settled).level();
 */
export function waiting<Key extends PropertyKey = never>(
  options: WaitingOptions<Key>,
): Layer<AsyncMembers<NoInfer<Key>>>;
export function waiting<Target extends object>(options: WaitingOptions<AsyncKey<Target>>): Layer<Target>;
export function waiting<Key extends PropertyKey>(options: WaitingOptions<Key>): Layer<AsyncMembers<Key>> {
  const optionNames = ["only", "until", "interval", "timeout", "onWait", "signal", "clock"];
  requireOptions(options, "waiting", optionNames, "waiting({ until: (metres) => metres !== undefined })");
  requireFunction(options.until, "waiting: until");
  const { only, onWait, signal, clock = hostClock } = options;
  const until = options.until as (result: unknown) => boolean;
  const interval = millisecondsOf(options.interval ?? 100, "waiting: interval");
  const timeout = millisecondsOf(options.timeout ?? "10s", "waiting: timeout");
  const report = reportOnce("waiting");
  const reportWait = (waited: WaitReport) => {
    try {
      handleRejection(onWait?.(waited), report);
    } catch (error) {
      report(error);
    }
  };

  const poll = async (next: Next, call: Call, first: Promise<unknown>, start: number): Promise<unknown> => {
    const member = call.member.label;
    let last: unknown = NO_ANSWER;
    let answer: unknown = first;
    for (let attempts = 1; ; attempts++) {
      const result = await answerOrTimeout(answer, clock, timeout - (clock.now() - start));
      if (result !== NO_ANSWER) last = result;
      const milliseconds = clock.now() - start;
      const satisfied = result !== NO_ANSWER && until(result);
      if (satisfied || result === NO_ANSWER || milliseconds + interval > timeout) {
        reportWait({ member, milliseconds, attempts, satisfied });
        if (satisfied) return result;
        const lastSeen = last === NO_ANSWER ? "No result arrived" : `Last result: ${briefText(last)}`;
        throw new NeverSatisfied(
          `No result of ${member} satisfied the condition within ${timeout} ms and ${attempts} ` +
            `${attempts === 1 ? "attempt" : "attempts"}. ${lastSeen}. Raise \`timeout\`, or check the condition.`,
          last === NO_ANSWER ? undefined : last,
        );
      }
      await pause(clock, interval, signal);
      answer = callUnlessAborted(next, call, signal, only);
    }
  };
  return layer<AsyncMembers<Key>>(
    "waiting",
    {
      call: (next) => (call) => {
        const start = clock.now();
        const first = callUnlessAborted(next, call, signal, only);
        return first instanceof Promise ? poll(next, call, first, start) : first;
      },
    },
    { ...(only && { only }), asyncMembers: true, repeats: "results" },
  );
}

/** Represents an answer that did not arrive in time. */
const NO_ANSWER = Symbol("no answer");

/** Waits for an answer for at most a number of milliseconds. */
function answerOrTimeout(answer: unknown, clock: Clock, milliseconds: number): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const cancel = clock.after(Math.max(0, milliseconds), () => resolve(NO_ANSWER));
    Promise.resolve(answer).finally(cancel).then(resolve, reject);
  });
}

function briefText(result: unknown): string {
  let text: string | undefined;
  try {
    text = JSON.stringify(result);
  } catch {
    // A value that JSON cannot represent is shown by its kind.
  }
  const words = text ?? String(result);
  return words.length > 120 ? `${words.slice(0, 120)}…` : words;
}
