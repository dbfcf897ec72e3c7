import fc from "fast-check";
import type { FindingName } from "../finding.ts";
import { CallbackValue } from "../values/arbitraries.ts";
import { deepCopy, isPlain } from "../values/equality.ts";
import { literal } from "../values/format.ts";
import { isObject } from "../values/schema.ts";
import { FEW_ITEMS, Iterated, MAX_ITEMS, STOPPED } from "./iteration.ts";
import { SELF, type SequenceResult, type StepOutcome } from "./sequence-run.ts";
import { asGenerated, type Step } from "./steps.ts";

/** What the expectation at the end of the code is about. Default: the outcome of the last step. */
export interface ShownDifference {
  /** Index of the step. */
  readonly at: number;
  /** The difference as a finding's name, if it decides how the expectation is written. */
  readonly name?: FindingName;
  /** Index of a callback that was called otherwise, in the order in which the callbacks were passed. */
  readonly callback?: number;
  /** Where the object that the step should return was seen before. */
  readonly identity?: SeenObject;
}

/** A place where an object was seen: the result of a step, or one of its arguments. */
export interface SeenObject {
  readonly step: number;
  /** Index of the argument. Default: the result. */
  readonly argument?: number;
}

/** Time to wait for callbacks in printed code, in milliseconds. */
const CALLBACK_TIME = 50;

/**
 * Returns steps as code for a test, with the expectation of one step. It holds for the implementation that was played,
 * and not for one that differs there. The target is named `subject`.
 */
export function stepsCode(
  steps: readonly Step[],
  played: SequenceResult,
  shown: ShownDifference = { at: steps.length - 1 },
): string {
  return new StepsCode(steps, played, shown).toText();
}

class StepsCode {
  readonly #steps: readonly Step[];
  readonly #played: SequenceResult;
  readonly #shown: ShownDifference;
  /** Steps whose results are used later. */
  readonly #used: ReadonlySet<number>;
  readonly #lines: string[] = [];
  #callbacks = 0;

  constructor(steps: readonly Step[], played: SequenceResult, shown: ShownDifference) {
    this.#steps = steps;
    this.#played = played;
    this.#shown = shown;
    const { identity } = shown;
    this.#used = new Set([
      ...played.reused.values(),
      ...(identity && identity.argument === undefined ? [identity.step] : []),
    ]);
  }

  toText(): string {
    const { at, callback } = this.#shown;
    const isOverlapping = at < this.#steps.length - 1 && callback === undefined;
    const open: string[] = [];
    for (const [index, step] of this.#steps.entries()) {
      const call = this.#call(step, index);
      const isShown = index === at && callback === undefined;
      if (isShown && !isOverlapping) this.#expect(step, call, this.#played.outcomes[index]);
      else if (!step.isAwaited && (isLater(this.#played.outcomes[index]) || (isShown && isOverlapping))) {
        this.#start(step, call, index);
        if (index !== at) open.push(callVariable(index));
      } else this.#lines.push(this.#statement(call, index));
    }
    const step = this.#steps[at];
    if (step && isOverlapping) this.#expect(step, callVariable(at), this.#played.outcomes[at]);
    if (callback !== undefined) this.#expectCallback(callback);
    if (open.length > 0) this.#lines.push(`await Promise.allSettled([${open.join(", ")}]);`);
    return this.#lines.join("\n");
  }

  /** Starts a call that ends while others run. */
  #start({ pause }: Step, call: string, index: number): void {
    const outcome = this.#played.outcomes[index];
    const variable = callVariable(index);
    this.#lines.push(`const ${variable} = ${call};`);
    // Nothing may be left unhandled while a later call is awaited.
    if (outcome?.status === "rejected") this.#lines.push(`${variable}.catch(() => {});`);
    if (pause && isLater(outcome)) this.#lines.push("await new Promise((resolve) => setTimeout(resolve));");
  }

  #statement(call: string, index: number): string {
    switch (this.#played.outcomes[index]?.status) {
      case "rejected":
        return `await ${call}.catch(() => {});`;
      case "threw":
        return `try { ${call}; } catch {}`;
      case "resolved":
        return this.#kept(`await ${call}`, index);
      default:
        return this.#kept(call, index);
    }
  }

  /** Keeps a result that is used later. */
  #kept(code: string, index: number): string {
    return this.#used.has(index) ? `const result${index + 1} = ${code};` : `${code};`;
  }

  #call({ operation: { use, key }, args }: Step, index: number): string {
    const member = key === undefined ? "subject" : `subject${access(key)}`;
    if (use === "read") return member;
    const texts = args.map((argument, place) => this.#argument(index, place, asGenerated(argument)));
    return use === "write" ? `${member} = ${texts[0]}` : `${member}(${texts.join(", ")})`;
  }

  #argument(index: number, place: number, argument: unknown): string {
    const from = this.#played.reused.get(`${index}.${place}`);
    if (from !== undefined) return `result${from + 1}`;
    const repeated = this.#played.repeated.get(`${index}.${place}`);
    if (repeated !== undefined) return callbackName(repeated);
    const text = literal(
      deepCopy(argument, (item) =>
        item instanceof CallbackValue ? new PrintedCallback(this.#callbackText()) : item,
      ),
    );
    const { identity, name, at } = this.#shown;
    const isNamed = identity?.step === index && identity.argument === place;
    const isKept = name === "mutated" && index === at && isObject(argument);
    if (!isNamed && !isKept) return text;
    const variable = argumentName(index, place);
    this.#lines.push(`const ${variable} = ${text};`);
    return variable;
  }

  #callbackText(): string {
    const index = this.#callbacks;
    this.#callbacks += 1;
    const isShown = index === this.#shown.callback;
    if (isShown) this.#lines.push("const calls = [];");
    const text = isShown ? "(...args) => { calls.push(args); return args[0]; }" : "(value) => value";
    if (![...this.#played.repeated.values()].includes(index)) return text;
    this.#lines.push(`const ${callbackName(index)} = ${text};`);
    return callbackName(index);
  }

  #expectCallback(index: number): void {
    const calls = this.#played.callbacks[index] ?? [];
    this.#lines.push(`await new Promise((resolve) => setTimeout(resolve, ${CALLBACK_TIME}));`);
    this.#lines.push(`expect(calls).toEqual(${listText(calls)});`);
  }

  #expect(step: Step, call: string, outcome: StepOutcome | undefined): void {
    const { name, identity } = this.#shown;
    const awaited = isLater(outcome) ? `await ${call}` : call;
    if (name === "async" && isLater(outcome)) {
      this.#lines.push(`const promise = ${call};`, "expect(promise).toBeInstanceOf(Promise);");
      if (outcome?.status === "rejected") this.#lines.push("await promise.catch(() => {});");
    } else if (identity) {
      const variable =
        identity.argument === undefined
          ? `result${identity.step + 1}`
          : argumentName(identity.step, identity.argument);
      this.#lines.push(`expect(${awaited}).toBe(${variable});`);
    } else if (name === "mutated") this.#expectArguments(step, awaited);
    else this.#lines.push(expectation(step, call, outcome));
  }

  /** Expects that a call leaves its arguments as they are. */
  #expectArguments({ args }: Step, call: string): void {
    const { at } = this.#shown;
    this.#lines.push(`${call};`);
    for (const [place, argument] of args.entries())
      if (isObject(asGenerated(argument)) && !this.#played.reused.has(`${at}.${place}`))
        this.#lines.push(`expect(${argumentName(at, place)}).toEqual(${literal(asGenerated(argument))});`);
  }
}

/** Whether a call ended later, with a promise. */
function isLater(outcome: StepOutcome | undefined): boolean {
  return outcome?.status === "resolved" || outcome?.status === "rejected";
}

function callVariable(index: number): string {
  return `call${index + 1}`;
}

function callbackName(index: number): string {
  return `callback${index + 1}`;
}

function argumentName(step: number, place: number): string {
  return `argument${step + 1}_${place + 1}`;
}

/** Prints a callback as code. */
class PrintedCallback {
  readonly #text: string;

  constructor(text: string) {
    this.#text = text;
  }

  [fc.toStringMethod](): string {
    return this.#text;
  }
}

/** Returns the code that reads a member. */
export function access(key: string | symbol): string {
  if (typeof key === "symbol") return `[${key.description ?? "symbol"}]`;
  return /^[\p{ID_Start}$_][\p{ID_Continue}$]*$/u.test(key) ? `.${key}` : `[${JSON.stringify(key)}]`;
}

function expectation({ operation: { use } }: Step, call: string, outcome: StepOutcome | undefined): string {
  if (use === "write" && outcome?.status === "returned") return `${call};`;
  switch (outcome?.status) {
    case undefined:
      return `${call};`;
    case "unsettled":
      return `await ${call}; // does not end`;
    case "threw":
      return `expect(() => ${call}).toThrow(${thrown(outcome.value)});`;
    case "rejected":
      return `await expect(${call}).rejects.toThrow(${thrown(outcome.value)});`;
    case "returned":
      return answered(call, outcome.value);
    case "resolved":
      return answered(`await ${call}`, outcome.value);
  }
}

function thrown(error: unknown): string {
  if (!(error instanceof Error)) return "";
  return `expect.objectContaining({ message: ${JSON.stringify(error.message)} })`;
}

function answered(call: string, value: unknown): string {
  if (value === SELF) return `expect(${call}).toBe(subject);`;
  if (value instanceof Iterated) return iterated(call, value);
  if (!isObject(value)) return `expect(${call}).toBe(${literal(value)});`;
  if (Array.isArray(value)) return `expect(${call}).toEqual(${listText(value)});`;
  if (value instanceof Date || (typeof value !== "function" && isPlain(value)))
    return `expect(${call}).toEqual(${literal(value)});`;
  return `expect(${call}).toBeTypeOf("${typeof value}");`;
}

/** Reads an iterator in code as it was read. */
function iterated(call: string, { reading, values, returned, error, isStopped, isAsync }: Iterated): string {
  const wait = isAsync ? "await " : "";
  const most = reading === "all" ? MAX_ITEMS : FEW_ITEMS;
  const stop = reading === "throw" ? `throw(new Error("${STOPPED}"))` : `return("${STOPPED}")`;
  const read = [
    "const items = [];",
    "let result = { done: false };",
    `for (let at = 0; at < ${most} && !result.done; at += 1) {`,
    `  result = ${wait}iterator.next(at);`,
    "  if (!result.done) items.push(result.value);",
    "}",
    ...(isStopped ? [`result = ${wait}iterator.${stop};`] : []),
  ];
  const body =
    error === undefined
      ? read
      : [
          "const items = [];",
          "let result = {};",
          "try {",
          ...read.slice(2),
          "} catch (error) { result = { value: error.message }; }",
        ];
  const ending = error instanceof Error ? literal(error.message) : literal(returned);
  return [
    `const iterator = ${call};`,
    "expect(iterator).not.toBeInstanceOf(Array);",
    ...body,
    `expect(items).toEqual(${listText(values)});`,
    `expect(result.value).toEqual(${ending});`,
  ].join("\n");
}

const MAX_LENGTH = 80;

/** Returns an array literal, with one line per item if it is long. */
function listText(values: readonly unknown[]): string {
  const text = literal(values);
  if (text.length <= MAX_LENGTH) return text;
  return `[\n${values.map((value) => `  ${literal(value)},\n`).join("")}]`;
}
