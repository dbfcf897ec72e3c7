import { SleeveError } from "../errors.ts";
import type { Layer } from "../forward/call.ts";
import { argumentsKey } from "./arguments-key.ts";
import { type LayerOptions, layer } from "./layer.ts";
import type { Outcome } from "./outcome.ts";

/** One call or read, and how it ended. A list of these is a recording: plain data as far as what passed is. */
export interface Recorded {
  readonly use: "call" | "read";
  readonly member: string;
  readonly args: readonly unknown[];
  readonly outcome: Outcome;
}

export interface RecordedOptions<Target> extends LayerOptions<Target> {
  /** Takes each call when it has ended, and each read. */
  readonly to: (recorded: Recorded) => void;
}

/**
 * Records calls with their outcomes, and reads, for a {@link standIn} to answer from later.
 *
 * @example
 * import { decorate, type Recorded, recorded, standIn } from "sleeve";
 *
 * const recording: Recorded[] = [];
 * const gauge = { level: (station: string) => station.length };
 * decorate(gauge, recorded({ to: (each) => recording.push(each) })).level("Ellery");
 * standIn<typeof gauge>(recording).level("Ellery"); // 6, and no gauge is asked
 */
export function recorded<Target>(options: RecordedOptions<Target>): Layer<Target> {
  const { to } = options;
  return layer<Target>(
    "recorded",
    {
      watch:
        ({ label: member }) =>
        ({ args }) =>
        (outcome) =>
          to({ use: "call", member, args, outcome }),
      read:
        (next, { label: member }) =>
        (call) => {
          const value = next(call);
          if (typeof value !== "function")
            to({ use: "read", member, args: [], outcome: { status: "returned", value } });
          return value;
        },
    },
    { ...(options.only && { only: options.only }), meetsEveryCall: true },
  );
}

/**
 * An object that answers from a recording. The same call is answered in the order in which it was recorded, and
 * with the last answer from then on.
 *
 * Whatever the recording does not hold throws `NOT_RECORDED`, which says what was asked and what there is.
 */
export function standIn<Target extends object>(recording: readonly Recorded[]): Target {
  const members = new Map<string, { use: Recorded["use"]; answers: Map<string, Outcome[]> }>();
  const asked = new WeakMap<readonly Outcome[], number>();
  for (const { use, member, args, outcome } of recording) {
    const known = members.get(member) ?? { use, answers: new Map<string, Outcome[]>() };
    members.set(member, known);
    const key = argumentsKey(args);
    const outcomes = known.answers.get(key);
    if (outcomes) outcomes.push(outcome);
    else known.answers.set(key, [outcome]);
  }
  const answer = (member: string, args: readonly unknown[]): unknown => {
    const answers = members.get(member)?.answers;
    const outcomes = answers?.get(argumentsKey(args));
    if (outcomes) {
      const turn = asked.get(outcomes) ?? 0;
      asked.set(outcomes, turn + 1);
      return replay(outcomes[Math.min(turn, outcomes.length - 1)] as Outcome);
    }
    const question = `${member}(${argumentsKey(args)})`;
    const there = [...(answers?.keys() ?? [])].slice(0, 5).map((each) => `${member}(${each})`);
    throw notRecorded(question, there);
  };
  const shown: PropertyDescriptorMap = Object.create(null);
  for (const [member, { use }] of members) {
    const attributes = { enumerable: true, configurable: true };
    shown[member] =
      use === "read"
        ? { ...attributes, get: () => answer(member, []) }
        : { ...attributes, value: (...args: unknown[]) => answer(member, args) };
  }
  const standing = new Proxy(Object.create(Object.prototype, shown) as object, {
    get(target, key, receiver) {
      // Promises ask everything whether it is one of them, and the language looks for its own symbols.
      if (key in target || typeof key === "symbol" || key === "then")
        return Reflect.get(target, key, receiver);
      throw notRecorded(key, [...members.keys()]);
    },
  });
  // What the recording holds is known at run time only; the rest says so when it is asked.
  return standing as Target;
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

function notRecorded(asked: string, there: readonly string[]): SleeveError {
  const known = there.length > 0 ? `It holds: ${there.join(", ")}.` : "It holds nothing of the kind.";
  return new SleeveError(
    "NOT_RECORDED",
    `The stand-in was asked for ${asked}, which its recording does not hold. ${known} Record it, or do not ask for it.`,
  );
}
