import { withArguments } from "../../forward/call-arguments.ts";
import { type Redaction, redacting } from "../../layers/core/redact.ts";
import { REDACTED } from "../../layers/core/secrets.ts";
import { open } from "../../layers/forwarding.ts";
import { layer } from "../../layers/layer.ts";
import { type Recorded, stub } from "../../layers/recorded.ts";
import { secretParameters } from "../../layers/secret-parameters.ts";
import { SleeveError } from "../../shared/errors.ts";
import { host } from "../../shared/host.ts";
import { type Outcome, succeeded } from "../../shared/outcome.ts";
import { isThenable } from "../../shared/thenable.ts";
import { decorate } from "../../wrappers/decorate.ts";
import { isPromise } from "../values/schema.ts";
import { decoded, encoded, SUBJECT } from "./encode.ts";
import { isRecordableIterator, isSync, type RecordedItems, tapedIterator } from "./recorded-iterator.ts";

/** A recording as stored in a file: a JSON document with a published schema. */
export interface RecordingDocument {
  readonly format: "sleeve-recording";
  readonly version: 1;
  /** Name of the recorded subject. */
  readonly subject: string;
  /** What was redacted, besides names like secrets. */
  readonly redacted: {
    readonly members: readonly string[];
    readonly paths: readonly string[];
    readonly values: readonly string[];
  };
  readonly calls: readonly RecordedCall[];
}

/** One call or read, with values as JSON. */
export interface RecordedCall {
  readonly use: "call" | "read";
  readonly member: string;
  readonly args: readonly unknown[];
  readonly status: Outcome["status"];
  /** The result or the error. */
  readonly value: unknown;
  /** Calls of its callbacks: the index of the argument, and the arguments of the call. */
  readonly callbacks: readonly { readonly argument: number; readonly args: readonly unknown[] }[];
}

/** Records the answers of a subject for a file. */
export interface Recording {
  /** Returns the subject with every use recorded. */
  of<Subject extends object>(subject: Subject): Subject;
  /** Returns the recording so far, as the text of a file, without secrets. */
  toText(): string;
}

/**
 * Starts a recording. Members, parameters and fields named like secrets, and those in `redaction`, are redacted before
 * they are stored. Calls of callbacks are recorded too, and the items of generators as far as the client reads them.
 * Other objects that are read only once, such as streams, are not recorded; the stub fails when they are used.
 *
 * @example
 * import { recordingOf, stubFrom } from "sleeve/conform";
 *
 * interface Gauge { level(station: string): Promise<number> }
 * declare const real: Gauge;
 *
 * const recording = recordingOf("gauge");
 * await recording.of(real).level("Ellery");
 * const text = recording.toText(); // write it to a file
 *
 * const gauge = stubFrom<Gauge>(text);
 * await gauge.level("Ellery"); // the recorded answer
 */
export function recordingOf(subject: string, redaction: Redaction = {}): Recording {
  const calls: RecordedCall[] = [];
  const selves = new WeakSet<object>();
  // Recording a value reads it; such reads are not uses by a client.
  let isWriting = false;
  const newValue = (value: unknown): unknown => {
    isWriting = true;
    try {
      return encoded(value, (item) => selves.has(item));
    } finally {
      isWriting = false;
    }
  };
  const take = (
    use: "call" | "read",
    member: string,
    args: readonly unknown[],
    secrets: readonly boolean[] = [],
  ) => {
    const redact = whole(member, redaction);
    const taken = {
      args: args.map((argument, at) => (secrets[at] ? REDACTED : redact(newValue(argument)))),
      callbacks: [] as { argument: number; args: unknown[] }[],
    };
    return {
      called: (argument: number, input: readonly unknown[]) =>
        void taken.callbacks.push({ argument, args: input.map((item) => redact(newValue(item))) }),
      /** Returns what the client gets: the value, or an iterator that is recorded while it is read. */
      ended: (outcome: Outcome): unknown => {
        const input = succeeded(outcome) ? outcome.value : outcome.error;
        if (!isRecordableIterator(input)) {
          calls.push({ use, member, status: outcome.status, value: redact(newValue(input)), ...taken });
          return input;
        }
        const record: RecordedItems = { items: [], end: "none" };
        const kind = isSync(input) ? "generator" : "async generator";
        calls.push({ use, member, status: outcome.status, value: { "~": kind, is: record }, ...taken });
        return tapedIterator(input, record, (item) => redact(newValue(item)));
      },
    };
  };
  const taping = layer("taping", {
    call:
      (next, { label }) =>
      (call) => {
        const { called, ended } = take("call", label, call.args, secretParameters(call));
        const args = call.args.map((candidate, argument) =>
          typeof candidate === "function"
            ? passingOn(candidate as Callback, (input) => called(argument, input))
            : candidate,
        );
        return noted(() => next(withArguments(call, args)), ended);
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
    of: (subject) => {
      const taped = decorate(subject, taping);
      selves.add(subject).add(taped);
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

/** Followed to any depth: what is cut here would be missing in the stub. */
function whole(member: string, redaction: Redaction) {
  return redacting(member, redaction, Number.MAX_SAFE_INTEGER, {
    depth: 64,
    maxEntries: Number.MAX_SAFE_INTEGER,
    isEncoded: true,
  });
}

function passingOn(callback: Callback, called: (args: readonly unknown[]) => void): Callback {
  return function (this: unknown, ...args) {
    called(args);
    return Reflect.apply(callback, this, args);
  };
}

function noted(run: () => unknown, ended: (outcome: Outcome) => unknown): unknown {
  let result: unknown;
  try {
    result = run();
  } catch (error) {
    ended({ status: "threw", error });
    throw error;
  }
  if (!isThenable(result)) return ended({ status: "returned", value: result });
  const settled = result.then(
    (value) => ended({ status: "resolved", value }),
    (error: unknown) => void ended({ status: "rejected", error }),
  );
  // A promise may resolve to an iterator; another thenable, such as a query, has members of its own.
  return isPromise(result) ? result.then(() => settled) : result;
}

/**
 * Parses the text of a recording.
 *
 * @throws {SleeveError} `BAD_RECORDING` if it is invalid
 */
export function readRecording(text: string): RecordingDocument {
  let document: Partial<RecordingDocument>;
  try {
    document = JSON.parse(text) as Partial<RecordingDocument>;
  } catch (error) {
    throw badRecording(`It is not JSON: ${(error as Error).message}`);
  }
  if (document?.format !== "sleeve-recording" || !Array.isArray(document.calls))
    throw badRecording("It has no `calls`.");
  if (document.version !== 1)
    throw badRecording(`Its version is ${document.version}; this library reads version 1.`);
  for (const [index, call] of document.calls.entries()) {
    const { member, args, status } = (call ?? {}) as Partial<RecordedCall>;
    const isCall =
      typeof member === "string" &&
      Array.isArray(args) &&
      /^(returned|threw|resolved|rejected)$/.test(status ?? "");
    if (!isCall) throw badRecording(`Call ${index + 1} lacks a member, arguments or a status.`);
  }
  return document as RecordingDocument;
}

function badRecording(reason: string): SleeveError {
  return new SleeveError(
    "BAD_RECORDING",
    `Invalid recording. ${reason} Record it again, or pass another file.`,
  );
}

/**
 * Creates a stub that answers as recorded: equal calls in recorded order, and with the last answer from then
 * on. Callbacks are called as recorded, asynchronously.
 *
 * @throws {SleeveError} `BAD_RECORDING` for an invalid text; `NOT_RECORDED`, at a call, if the recording
 * lacks it
 */
export function stubFrom<Target extends object>(text: string): Target {
  const { calls, redacted } = readRecording(text);
  const recordedStub = stub<Target>(calls.map(recordedCall));
  const isSecret = (label: string, at: number) =>
    calls.some(({ member, args }) => member === label && args[at] === REDACTED);
  const redaction = redactionOf(redacted);
  const replaying = layer<Target>("replaying", {
    call:
      (next, { label }) =>
      (call) => {
        const redact = whole(label, redaction);
        // Looks up a call in recorded form: redacted, and with all functions equal.
        const args = call.args.map((argument, at) =>
          keyOf(isSecret(label, at) ? REDACTED : redact(encoded(argument))),
        );
        return afterwards(next(withArguments(call, args)), (answer) => {
          const input = answer.play(call.args);
          return input === SUBJECT ? wrapped : input;
        });
      },
  });
  const wrapped: Target = decorate(recordedStub, open(), replaying);
  return wrapped;
}

function recordedCall({ use, member, args, status, value, callbacks = [] }: RecordedCall): Recorded {
  const keys = args.map(keyOf);
  const decodedValue = decoded(value);
  if (status === "threw" || status === "rejected")
    return { use, member, args: keys, outcome: { status, error: decodedValue } };
  const answer = use === "read" ? decodedValue : new Answer(decodedValue, callbacks);
  return { use, member, args: keys, outcome: { status, value: answer } };
}

/** Returns a lookup key: equal values have equal keys. */
function keyOf(argument: unknown): string {
  return JSON.stringify(argument);
}

/** A recorded answer, with the calls of its callbacks. */
class Answer {
  readonly #value: unknown;
  readonly #callbacks: RecordedCall["callbacks"];

  constructor(value: unknown, callbacks: RecordedCall["callbacks"]) {
    this.#value = value;
    this.#callbacks = callbacks;
  }

  play(args: readonly unknown[]): unknown {
    for (const { argument, args: input } of this.#callbacks) {
      const callback = args[argument];
      if (typeof callback === "function") host.setTimeout?.(() => callback(...input.map(decoded)), 0);
    }
    return this.#value;
  }
}

function afterwards(result: unknown, change: (answer: Answer) => unknown): unknown {
  if (result instanceof Answer) return change(result);
  return isThenable(result) ? result.then((value) => afterwards(value, change)) : result;
}

/** Returns the redaction of a recording, to apply it again. */
export function redactionOf({ members, paths, values }: RecordingDocument["redacted"]): Redaction {
  return { members, paths, values: values.map(patternOf) };
}

function patternOf(text: string): RegExp {
  const end = text.lastIndexOf("/");
  return new RegExp(text.slice(1, end), text.slice(end + 1));
}
