import { badOption } from "../../shared/errors.ts";
import {
  addTo,
  apply,
  createObject,
  defineProperty,
  every,
  getOwnPropertyDescriptor,
  getProperty,
  hasOwn,
  isArray,
  isInheritedBy,
  ownKeys,
} from "../../shared/intrinsics.ts";
import { describeValue, requireOptions } from "../../shared/options.ts";
import { hardened, NativeRegExp, sliceText, testPattern } from "../../shared/patterns.ts";
import {
  classNameOf,
  type Entries,
  type Entry,
  ERROR,
  entriesOf,
  enumerableKeys,
  isPlain,
  itemsOf,
  nameOfKey,
  numberText,
  prototypeWithoutAccessors,
  setOwn,
  tagOf,
} from "./object-contents.ts";
import { hasSecretName, isSecretHeader, REDACTED, withoutSecrets } from "./secrets.ts";

/** What to redact, besides members, parameters and fields that are named like secrets. */
export interface Redaction {
  /** Members whose arguments and results are redacted completely. */
  readonly members?: readonly string[];
  /** Fields, by their path in an argument or result: `skipper.phone`. `*` matches any one step. */
  readonly paths?: readonly string[];
  /** Patterns of strings that are redacted wherever they occur. */
  readonly values?: readonly RegExp[];
}

/** @throws {SleeveError} `BAD_OPTION` for an invalid redaction */
export function requireRedaction(redaction: unknown): void {
  requireOptions(redaction, "redact", ["members", "paths", "values"], '{ paths: ["skipper.phone"] }');
  const { members = [], paths = [], values = [] } = redaction as Record<string, unknown>;
  const isListOf = (list: unknown, isItem: (item: unknown) => boolean) =>
    Array.isArray(list) && list.every(isItem);
  const isText = (item: unknown) => typeof item === "string";
  if (!isListOf(members, isText))
    throw badOption(`redact: members is ${describeValue(members)}. Pass a list of member names.`);
  if (!isListOf(paths, isText))
    throw badOption(
      `redact: paths is ${describeValue(paths)}. Pass a list of paths, such as ["skipper.phone"].`,
    );
  if (!isListOf(values, (item) => item instanceof RegExp))
    throw badOption(`redact: values is ${describeValue(values)}. Pass a list of regular expressions.`);
}

/** Returns a copy of a value that is safe to log. */
export type Redact = (value: unknown) => unknown;

/** How much of a value is copied, and for what. */
interface Extent {
  readonly depth: number;
  /** Maximum number of objects copied from one value. */
  readonly maxEntries: number;
  /** Whether values are encoded later, so that functions and binary data are kept. */
  readonly isEncoded?: boolean;
}

interface Terms extends Extent {
  readonly steps: readonly (readonly string[])[];
  readonly values: readonly RegExp[];
  readonly length: number;
}

const MAX_LOGGED_DEPTH = 4;
const MAX_ENTRIES = 1000;

/**
 * Creates the function that copies arguments and results of one member for a log.
 *
 * Secrets are redacted. Strings and lists longer than `length` are cut. Copies are at most four levels deep
 * with at most a thousand entries, unless `extent` says otherwise; what lies beyond is left out. No object of the program
 * is passed on, because a logger may print more than its fields. Errors are copied with message, stack and cause.
 */
export function redacting(
  member: string,
  redaction: Redaction,
  length: number,
  extent: Extent = { depth: MAX_LOGGED_DEPTH, maxEntries: MAX_ENTRIES },
): Redact {
  if (hasSecretName(member) || redaction.members?.includes(member)) return () => REDACTED;
  const terms: Terms = {
    ...extent,
    steps: redaction.paths?.map((path) => path.split(".")) ?? [],
    values: (redaction.values ?? []).map(hardened),
    length,
  };
  return (value) => {
    if (isPlainValue(value)) return value;
    try {
      return new Copy(terms).of(value, ROOT);
    } catch {
      return "[unreadable]";
    }
  };
}

/** Whether a value is a primitive that cannot contain a secret. */
function isPlainValue(value: unknown): boolean {
  return typeof value === "number" || typeof value === "boolean" || value === undefined || value === null;
}

/** A place in a value. Its steps are only kept if paths are redacted. */
interface Path {
  readonly depth: number;
  readonly parent: Path | undefined;
  readonly step: string;
}

const ROOT: Path = { depth: 0, parent: undefined, step: "" };
/** Places without steps, by their depth. */
const DEPTHS: Path[] = [ROOT];
/** Longest secret that is recognised where a text is cut. */
const MAX_SECRET = 4096;

const NativeDate = Date;
const PlainMap = Map;
const { isView } = ArrayBuffer;
const SET = /* @__PURE__ */ (() => Set.prototype as object)();
const MAP = /* @__PURE__ */ (() => Map.prototype as object)();
const DATE = /* @__PURE__ */ (() => Date.prototype as object)();
const REG_EXP = /* @__PURE__ */ (() => RegExp.prototype as object)();
const BUFFER = /* @__PURE__ */ (() => ArrayBuffer.prototype as object)();
const dateTime = /* @__PURE__ */ (() => Date.prototype.getTime)();
const mapForEach = /* @__PURE__ */ (() => Map.prototype.forEach)();
const mapSet = /* @__PURE__ */ (() => Map.prototype.set)();

/** Creates one copy. */
class Copy {
  readonly #terms: Terms;
  #remaining: number;

  constructor(terms: Terms) {
    this.#terms = terms;
    this.#remaining = terms.maxEntries;
  }

  of(value: unknown, path: Path): unknown {
    if (typeof value === "string") return this.#text(value);
    if (typeof value === "function")
      return this.#terms.isEncoded ? value : `[Function: ${value.name || "anonymous"}]`;
    if (typeof value !== "object" || value === null) return value;
    this.#remaining -= 1;
    if (this.#remaining < 0 || path.depth === this.#terms.depth) return "…";
    if (isPlain(value)) return this.#object(value, path);
    if (isInheritedBy(ERROR, value)) return this.#error(value as Error, path);
    if (isArray(value)) return this.#list(value, path);
    if (isInheritedBy(SET, value)) return this.#list(itemsOf(value), path);
    if (isInheritedBy(MAP, value)) return this.#map(value, path);
    return this.#builtin(value, path) ?? this.#object(value, path);
  }

  /** Copies an object of the language or the host whose state is not in its fields. */
  #builtin(value: object, path: Path): unknown {
    if (isInheritedBy(DATE, value)) return new NativeDate(apply(dateTime, value, []) as number);
    if (isInheritedBy(REG_EXP, value))
      return new NativeRegExp((value as RegExp).source, (value as RegExp).flags);
    if (isView(value) || isInheritedBy(BUFFER, value)) return this.#bytes(value as ArrayBuffer);
    const kind = tagOf(value);
    switch (kind) {
      case "URL":
        return this.#text((value as { readonly href: string }).href);
      case "URLSearchParams":
      case "FormData":
      case "Headers":
        return this.#record(entriesOf(value as Entries), path);
      case "Request":
      case "Response":
        return this.#exchange(value as HttpMessage, path);
      case "Promise":
      case "WeakMap":
      case "WeakSet":
      case "WeakRef":
        return `[${kind}]`;
      default:
        return undefined;
    }
  }

  #object(value: object, path: Path): unknown {
    if ("toJSON" in value && typeof value.toJSON === "function")
      return this.of(value.toJSON(), this.#within(path, "toJSON"));
    const keys = enumerableKeys(value);
    if (keys.length === 0 && !isPlain(value)) return `[${classNameOf(value)}]`;
    const isSecretPair = hasOwn(value, "value") && namesSecret(value);
    const copy: Record<PropertyKey, unknown> = {};
    const count = keys.length < this.#terms.length ? keys.length : this.#terms.length;
    for (let at = 0; at < count; at++) {
      const key = keys[at] as string;
      const isSecret = isSecretPair && key === "value";
      const field = isSecret ? REDACTED : this.#named(nameOfKey(key), getProperty(value, key), path);
      // An assignment would set the prototype.
      if (key === "__proto__") setOwn(copy, key, field);
      else copy[key] = field;
    }
    return copy;
  }

  #text(value: string): string {
    const { length } = this.#terms;
    if (this.#isSecret(value)) return REDACTED;
    // A secret that begins in the part that is shown may end after it.
    const shown = withoutSecrets(value.length > length ? sliceText(value, 0, length + MAX_SECRET) : value);
    return value.length > length ? `${sliceText(shown, 0, length)}… (${value.length} characters)` : shown;
  }

  #bytes(value: ArrayBuffer | ArrayBufferView): unknown {
    if (!this.#terms.isEncoded) return `[${classNameOf(value)} of ${value.byteLength} bytes]`;
    return value instanceof Uint8Array ? Uint8Array.from(value) : value;
  }

  #exchange({ method, status, url, headers }: HttpMessage, path: Path): unknown {
    const entries: Entry[] = [];
    if (url !== undefined) addTo(entries, { key: "url", value: url });
    if (method !== undefined) addTo(entries, { key: "method", value: method });
    if (status !== undefined) addTo(entries, { key: "status", value: status });
    if (headers !== undefined) addTo(entries, { key: "headers", value: headers });
    return this.#record(entries, path);
  }

  #record(entries: readonly Entry[], path: Path): object {
    const copy = {};
    for (let index = 0; index < entries.length && index < this.#terms.length; index++) {
      const { key, value } = entries[index] as Entry;
      setOwn(copy, key, this.#named(key, value, path));
    }
    return copy;
  }

  /** A list of names and values in turn, and a list of pairs, are headers if their names are those of secrets. */
  #list(value: readonly unknown[], path: Path): unknown[] {
    const { length } = this.#terms;
    const items: unknown[] = [];
    const isPair = value.length === 2 && typeof value[0] === "string" && hasSecretName(value[0]);
    for (let index = 0; index < value.length && index < length; index++) {
      const before: unknown = index % 2 === 1 ? value[index - 1] : undefined;
      const isSecret = typeof before === "string" && (isPair || isSecretHeader(before));
      const place = this.#within(path, numberText(index));
      items[index] =
        isSecret && typeof value[index] === "string" ? REDACTED : this.#field(value[index], place);
    }
    if (value.length > length) addTo(items, `… (${value.length} items)`);
    return items;
  }

  #map(value: object, path: Path): ReadonlyMap<unknown, unknown> {
    const copy = new PlainMap();
    let count = 0;
    apply(mapForEach, value, [
      (item: unknown, key: unknown) => {
        if (count++ >= this.#terms.length) return;
        apply(mapSet, copy, [
          this.of(key, this.#within(path, "key")),
          this.#named(nameOfKey(key), item, path),
        ] as never);
      },
    ] as never);
    return copy;
  }

  #named(name: string, value: unknown, path: Path): unknown {
    return hasSecretName(name) ? REDACTED : this.#field(value, this.#within(path, name));
  }

  #within(path: Path, step: string): Path {
    const depth = path.depth + 1;
    if (this.#terms.steps.length > 0) return { depth, parent: path, step };
    DEPTHS[depth] ??= { depth, parent: undefined, step: "" };
    return DEPTHS[depth];
  }

  #field(value: unknown, path: Path): unknown {
    return every(this.#terms.steps, (pattern) => !matches(pattern, path)) ? this.of(value, path) : REDACTED;
  }

  /**
   * A copy of the same class, or of the nearest one whose instances keep their state in properties: a getter of a class such
   * as `DOMException` fails on a copy. JSON, which most loggers write, gets the properties that JSON leaves out of errors.
   */
  #error(error: Error, path: Path): Error {
    const copy = createObject(prototypeWithoutAccessors(error)) as Error;
    const keys = ownKeys(error);
    const fields: Record<string, unknown> = {};
    for (let index = 0; index < keys.length; index++) {
      const key = keys[index] as string;
      if (typeof key !== "string") continue;
      const { enumerable = false } = getOwnPropertyDescriptor(error, key) as PropertyDescriptor;
      const field: unknown = getProperty(error, key);
      const isText = (key === "stack" || key === "message") && typeof field === "string";
      const value = isText ? this.#longText(field) : this.#named(key, field, path);
      defineProperty(copy, key, { value, enumerable, configurable: true, writable: true });
      setOwn(fields, key, value);
    }
    const hidden = (key: "message" | "name") => {
      if (copy[key] === error[key] || hasOwn(copy, key)) return;
      const value = this.#longText(String(error[key]));
      defineProperty(copy, key, { value, enumerable: false, configurable: true, writable: true });
    };
    hidden("message");
    hidden("name");
    const { message, stack, ...others } = fields;
    const json = {
      type: classNameOf(error),
      message: message ?? this.#longText(error.message),
      stack,
      ...others,
    };
    defineProperty(copy, "toJSON", { value: () => json, configurable: true, writable: true });
    return copy;
  }

  /** The message or the stack of an error, which is not cut. */
  #longText(text: string): string {
    return this.#isSecret(text) ? REDACTED : withoutSecrets(text);
  }

  #isSecret(text: string): boolean {
    return !every(this.#terms.values, (pattern) => !testPattern(pattern, text));
  }
}

/** The part of `Request` and `Response` that is logged. */
interface HttpMessage {
  readonly method?: string;
  readonly status?: number;
  readonly url?: string;
  readonly headers?: object;
}

/** Whether an object is a pair that names its value like a secret, as headers and forms are often listed. */
function namesSecret(pair: object): boolean {
  const name: unknown = getProperty(pair, hasOwn(pair, "name") ? "name" : "key");
  return typeof name === "string" && hasSecretName(name);
}

function matches(pattern: readonly string[], path: Path): boolean {
  if (pattern.length !== path.depth) return false;
  let place: Path | undefined = path;
  for (let at = pattern.length - 1; at >= 0 && place; at--) {
    const step = pattern[at];
    if (step !== "*" && step !== place.step) return false;
    place = place.parent;
  }
  return true;
}
