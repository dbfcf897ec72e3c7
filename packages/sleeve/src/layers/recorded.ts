import type { Layer } from "../forward/call.ts";
import { argumentsKey } from "../shared/arguments-key.ts";
import { SleeveError } from "../shared/errors.ts";
import { requireFunction, requireOptions } from "../shared/options.ts";
import type { Outcome } from "../shared/outcome.ts";
import { reportOnce } from "../shared/report-once.ts";
import { handleRejection } from "../shared/thenable.ts";
import { type LayerOptions, layer } from "./layer.ts";

/**
 * One call or read with its outcome. A list of these is a recording. It is plain data if the values in it
 * are.
 */
export interface Recorded {
  readonly use: "call" | "read";
  readonly member: string;
  readonly args: readonly unknown[];
  readonly outcome: Outcome;
}

export interface RecordedOptions<Target> extends LayerOptions<Target> {
  /** Receives each call when it has ended, and each read. */
  readonly onRecord: (recorded: Recorded) => void;
}

/**
 * Records calls and reads with their outcomes, for a {@link stub} to replay.
 *
 * @example
 * import { decorate, type Recorded, recorded, stub } from "sleeve";
 *
 * const recording: Recorded[] = [];
 * const gauge = { level: (station: string) => station.length };
 * decorate(gauge, recorded({ onRecord: (call) => recording.push(call) })).level("Ellery");
 * stub<typeof gauge>(recording).level("Ellery"); // 6, without calling the gauge
 */
export function recorded<Target>(options: RecordedOptions<Target>): Layer<Target> {
  requireOptions(
    options,
    "recorded",
    ["onRecord", "only"],
    "recorded({ onRecord: (call) => calls.push(call) })",
  );
  const { onRecord } = options;
  requireFunction(onRecord, "recorded: onRecord");
  const report = reportOnce("recorded");
  return layer<Target>(
    "recorded",
    {
      watch:
        ({ label: member }) =>
        ({ args }) =>
        (outcome) =>
          onRecord({ use: "call", member, args, outcome }),
      read:
        (next, { label: member }) =>
        (call) => {
          const value = next(call);
          if (typeof value === "function") return value;
          try {
            const answer: unknown = onRecord({
              use: "read",
              member,
              args: [],
              outcome: { status: "returned", value },
            });
            handleRejection(answer, report);
          } catch (error) {
            report(error);
          }
          return value;
        },
    },
    { ...(options.only && { only: options.only }), observesAll: true },
  );
}

/**
 * Creates an object that answers from a recording. Equal calls are answered in recorded order; further calls
 * get the last answer.
 *
 * A call that the recording does not contain throws `NOT_RECORDED`, with the recorded calls of that member.
 */
export function stub<Target extends object>(recording: readonly Recorded[]): Target {
  const members = new Map<string, { use: Recorded["use"]; answers: Map<string, Outcome[]> }>();
  const repeats = new WeakMap<readonly Outcome[], number>();
  for (const { use, member, args, outcome } of recording) {
    const cached = members.get(member) ?? { use, answers: new Map<string, Outcome[]>() };
    members.set(member, cached);
    const key = argumentsKey(args);
    const outcomes = cached.answers.get(key);
    if (outcomes) outcomes.push(outcome);
    else cached.answers.set(key, [outcome]);
  }
  const answer = (member: string, args: readonly unknown[]): unknown => {
    const answers = members.get(member)?.answers;
    const outcomes = answers?.get(argumentsKey(args));
    if (outcomes) {
      const turn = repeats.get(outcomes) ?? 0;
      repeats.set(outcomes, turn + 1);
      return replay(outcomes[Math.min(turn, outcomes.length - 1)] as Outcome);
    }
    const question = `${member}(${argumentsKey(args)})`;
    const there = [...(answers?.keys() ?? [])].slice(0, 5).map((key) => `${member}(${key})`);
    throw notRecorded(question, there);
  };
  const descriptors: PropertyDescriptorMap = Object.create(null);
  for (const [member, { use }] of members) {
    const attributes = { enumerable: true, configurable: true };
    descriptors[member] =
      use === "read"
        ? { ...attributes, get: () => answer(member, []) }
        : { ...attributes, value: (...args: unknown[]) => answer(member, args) };
  }
  const proxy = new Proxy(Object.create(Object.prototype, descriptors) as object, {
    get(target, key, receiver) {
      // Promises read `then` on every value, and the language reads its own symbols.
      if (key in target || typeof key === "symbol" || key === "then")
        return Reflect.get(target, key, receiver);
      throw notRecorded(key, [...members.keys()]);
    },
  });
  // The recording's members are known only at run time; the others throw `NOT_RECORDED`.
  return proxy as Target;
}

function replay(outcome: Outcome): unknown {
  switch (outcome.status) {
    case "returned":
      return outcome.value;
    case "resolved":
      return Promise.resolve(outcome.value);
    case "rejected":
      return Promise.reject(outcome.error);
    case "threw":
      throw outcome.error;
  }
}

function notRecorded(request: string, there: readonly string[]): SleeveError {
  const listed = there.length > 0 ? `Recorded: ${there.join(", ")}.` : "No call of that member is recorded.";
  return new SleeveError(
    "NOT_RECORDED",
    `${request} is not in the recording. ${listed} Record that call, or remove it from the test.`,
  );
}
