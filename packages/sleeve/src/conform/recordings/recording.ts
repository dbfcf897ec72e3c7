import { SleeveError } from "../../errors.ts";
import { host } from "../../host.ts";
import { open } from "../../layers/forwarding.ts";
import { layer } from "../../layers/layer.ts";
import { type Outcome, succeeded } from "../../layers/outcome.ts";
import { type Recorded, standIn } from "../../layers/recorded.ts";
import { type Redaction, redacting } from "../../layers/redact.ts";
import { decorate } from "../../wrappers/decorate.ts";
import { isThenable } from "../schema.ts";
import { decoded, encoded, SUBJECT } from "./encode.ts";

/** A recording as it is kept in a file: a JSON document with a published schema. */
export interface RecordingDocument {
  readonly format: "sleeve-recording";
  readonly version: 1;
  /** What was recorded. */
  readonly subject: string;
  /** What was blotted out beside what is named like a secret. */
  readonly redacted: {
    readonly members: readonly string[];
    readonly paths: readonly string[];
    readonly values: readonly string[];
  };
  readonly calls: readonly RecordedCall[];
}

/** One call, or read, with values as JSON. */
export interface RecordedCall {
  readonly use: "call" | "read";
  readonly member: string;
  readonly args: readonly unknown[];
  readonly status: Outcome["status"];
  /** The answer, or the error. */
  readonly value: unknown;
  /** The calls of the callbacks that it was given: which argument was called, with what. */
  readonly callbacks: readonly { readonly argument: number; readonly args: readonly unknown[] }[];
}

/** Takes down what a subject answers, for a file. */
export interface Recording {
  /** The subject with everything that is asked of it taken down. */
  of<Subject extends object>(subject: Subject): Subject;
  /** What was taken down so far, as the text of a file. Secrets are not in it. */
  toText(): string;
}

/**
 * Starts a recording. What is named like a secret, and what `redaction` names, is blotted out before it is kept; the answers
 * of callbacks are kept too.
 *
 * @example
 * import { recordingOf, standInFrom } from "sleeve/conform";
 *
 * interface Gauge { level(station: string): Promise<number> }
 * declare const real: Gauge;
 *
 * const recording = recordingOf("the gauge");
 * await recording.of(real).level("Ellery");
 * const text = recording.toText(); // to be written to a file
 *
 * const gauge = standInFrom<Gauge>(text);
 * await gauge.level("Ellery"); // as the real one said
 */
export function recordingOf(subject: string, redaction: Redaction = {}): Recording {
  const calls: RecordedCall[] = [];
  const selves = new WeakSet<object>();
  // To take down a value is to read it, and what is read so is not asked for by anybody.
  let isWriting = false;
  const written = (value: unknown): unknown => {
    isWriting = true;
    try {
      return encoded(value, (each) => selves.has(each));
    } finally {
      isWriting = false;
    }
  };
  const take = (use: "call" | "read", member: string, args: readonly unknown[]) => {
    const redact = whole(member, redaction);
    const taken = {
      args: args.map((each) => redact(written(each))),
      callbacks: [] as { argument: number; args: unknown[] }[],
    };
    return {
      called: (argument: number, given: readonly unknown[]) =>
        void taken.callbacks.push({ argument, args: given.map((each) => redact(written(each))) }),
      ended: (outcome: Outcome) => {
        const value = redact(written(succeeded(outcome) ? outcome.value : outcome.error));
        calls.push({ use, member, status: outcome.status, value, ...taken });
      },
    };
  };
  const taping = layer("taping", {
    call:
      (next, { label }) =>
      (call) => {
        const { called, ended } = take("call", label, call.args);
        const args = call.args.map((each, argument) =>
          typeof each === "function" ? passingOn(each as Callback, (given) => called(argument, given)) : each,
        );
        return noted(() => next({ ...call, args }), ended);
      },
    read:
      (next, { label }) =>
      (call) => {
        const value = next(call);
        if (typeof value !== "function" && !isWriting)
          take("read", label, []).ended({ status: "returned", value });
        return value;
      },
  });
  const { members = [], paths = [], values = [] } = redaction;
  const redacted = { members, paths, values: values.map(({ source, flags }) => `/${source}/${flags}`) };
  return {
    of: (each) => {
      const taped = decorate(each, taping);
      selves.add(each).add(taped);
      return taped;
    },
    toText: () => {
      const document: RecordingDocument = {
        format: "sleeve-recording",
        version: 1,
        subject,
        redacted,
        calls,
      };
      return `${JSON.stringify(document, null, 2)}\n`;
    },
  };
}

type Callback = (...args: readonly unknown[]) => unknown;

/** Followed as far as it goes: what is cut off in a recording would be missing in its stand-in. */
function whole(member: string, redaction: Redaction) {
  return redacting(member, redaction, Number.MAX_SAFE_INTEGER, { depth: 64, most: Number.MAX_SAFE_INTEGER });
}

function passingOn(callback: Callback, called: (args: readonly unknown[]) => void): Callback {
  return function (this: unknown, ...args) {
    called(args);
    return Reflect.apply(callback, this, args);
  };
}

function noted(run: () => unknown, ended: (outcome: Outcome) => void): unknown {
  let result: unknown;
  try {
    result = run();
  } catch (error) {
    ended({ status: "threw", error });
    throw error;
  }
  if (!isThenable(result)) {
    ended({ status: "returned", value: result });
    return result;
  }
  result.then(
    (value) => ended({ status: "resolved", value }),
    (error: unknown) => ended({ status: "rejected", error }),
  );
  return result;
}

/**
 * Reads the text of a recording.
 *
 * @throws {SleeveError} `BAD_RECORDING` where it is none
 */
export function readRecording(text: string): RecordingDocument {
  let document: Partial<RecordingDocument>;
  try {
    document = JSON.parse(text) as Partial<RecordingDocument>;
  } catch (error) {
    throw badRecording(`It is no JSON: ${(error as Error).message}`);
  }
  if (document?.format !== "sleeve-recording" || !Array.isArray(document.calls))
    throw badRecording("It has no `calls`.");
  if (document.version !== 1)
    throw badRecording(`It is of version ${document.version}, and this reads version 1.`);
  for (const [index, call] of document.calls.entries()) {
    const { member, args, status } = (call ?? {}) as Partial<RecordedCall>;
    const isCall =
      typeof member === "string" &&
      Array.isArray(args) &&
      /^(returned|threw|resolved|rejected)$/.test(status ?? "");
    if (!isCall) throw badRecording(`Its call ${index + 1} lacks a member, arguments or a status.`);
  }
  return document as RecordingDocument;
}

function badRecording(reason: string): SleeveError {
  return new SleeveError(
    "BAD_RECORDING",
    `This is not a recording. ${reason} Record it again, or give another file.`,
  );
}

/**
 * An object that answers as it was recorded: the same call in the order in which it was recorded, and with the last answer
 * from then on. Callbacks are called as they were, a moment later.
 *
 * @throws {SleeveError} `BAD_RECORDING` where the text is no recording; `NOT_RECORDED`, at a call, where it does not hold that
 */
export function standInFrom<Target extends object>(text: string): Target {
  const { calls, redacted } = readRecording(text);
  const standing = standIn<Target>(calls.map(recordedCall));
  const redaction = redactionOf(redacted);
  const replaying = layer<Target>("replaying", {
    call:
      (next, { label }) =>
      (call) => {
        const redact = whole(label, redaction);
        // Asked for in the words of the recording: without secrets, and with no function but one and the same.
        const args = call.args.map((each) => keyOf(redact(encoded(each))));
        return afterwards(next({ ...call, args }), (answer) => {
          const given = answer.play(call.args);
          return given === SUBJECT ? stand : given;
        });
      },
  });
  const stand: Target = decorate(standing, open(), replaying);
  return stand;
}

function recordedCall({ use, member, args, status, value, callbacks = [] }: RecordedCall): Recorded {
  const keys = args.map(keyOf);
  const known = decoded(value);
  if (status === "threw" || status === "rejected")
    return { use, member, args: keys, outcome: { status, error: known } };
  const answer = use === "read" ? known : new Answer(known, callbacks);
  return { use, member, args: keys, outcome: { status, value: answer } };
}

/** An argument as it is looked for: the same text for the same value. */
function keyOf(argument: unknown): string {
  return JSON.stringify(argument);
}

/** What a call answered, with the calls of its callbacks. */
class Answer {
  readonly #value: unknown;
  readonly #callbacks: RecordedCall["callbacks"];

  constructor(value: unknown, callbacks: RecordedCall["callbacks"]) {
    this.#value = value;
    this.#callbacks = callbacks;
  }

  play(args: readonly unknown[]): unknown {
    for (const { argument, args: given } of this.#callbacks) {
      const callback = args[argument];
      if (typeof callback === "function") host.setTimeout?.(() => callback(...given.map(decoded)), 0);
    }
    return this.#value;
  }
}

function afterwards(result: unknown, change: (answer: Answer) => unknown): unknown {
  if (result instanceof Answer) return change(result);
  return isThenable(result) ? result.then((value) => afterwards(value, change)) : result;
}

/** What was blotted out of a recording, to do the same again. */
export function redactionOf({ members, paths, values }: RecordingDocument["redacted"]): Redaction {
  return { members, paths, values: values.map(patternOf) };
}

function patternOf(text: string): RegExp {
  const end = text.lastIndexOf("/");
  return new RegExp(text.slice(1, end), text.slice(end + 1));
}
