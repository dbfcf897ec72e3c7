import type { Call } from "../forward/call.ts";
import { calledFunction } from "../forward/called-function.ts";
import { badOption } from "../shared/errors.ts";
import { describeValue, requireOptions } from "../shared/options.ts";
import type { Callable } from "../surface/member.ts";
import { parameterNames } from "../surface/member-functions.ts";

const SECRET =
  /pass(word|phrase|code|wd)|pwd|secret|token|credential|authori[sz]ation|api[-_]?key|private[-_]?key|cookie/i;

/** Replaces a secret in a log. */
export const REDACTED = "[redacted]";

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

/** Maximum number of names whose answer is kept. */
const MAX_NAMES = 2000;
const secretNames = /* @__PURE__ */ new Map<string, boolean>();

/** Whether a member, parameter or field is named like a secret. */
export function hasSecretName(name: string): boolean {
  let isSecret = secretNames.get(name);
  if (isSecret === undefined) {
    isSecret = SECRET.test(name);
    if (secretNames.size < MAX_NAMES) secretNames.set(name, isSecret);
  }
  return isSecret;
}

/** Returns for each parameter of a call whether it is named like a secret, as far as its names are known. */
export function secretParameters({ member, wrapper }: Call): readonly boolean[] {
  const fn = calledFunction(member, wrapper);
  if (!fn) return [];
  let known = secretParametersOf.get(fn);
  if (!known) {
    known = parameterNames(fn)?.map((name) => name !== undefined && hasSecretName(name)) ?? [];
    secretParametersOf.set(fn, known);
  }
  return known;
}

const secretParametersOf = new WeakMap<Callable, readonly boolean[]>();

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

const MAX_DEPTH = 4;
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
  extent: Extent = { depth: MAX_DEPTH, maxEntries: MAX_ENTRIES },
): Redact {
  if (hasSecretName(member) || redaction.members?.includes(member)) return () => REDACTED;
  const terms: Terms = {
    ...extent,
    steps: redaction.paths?.map((path) => path.split(".")) ?? [],
    values: redaction.values ?? [],
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
type Entry<Key = unknown> = readonly [Key, unknown];

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
    if (value instanceof Error) return this.#error(value, path);
    if (Array.isArray(value)) return this.#list(value, path);
    if (value instanceof Set) return this.#list([...value], path);
    if (value instanceof Map) return this.#map(value, path);
    return this.#builtin(value, path) ?? this.#object(value, path);
  }

  /** Copies an object of the language or the host whose state is not in its fields. */
  #builtin(value: object, path: Path): unknown {
    if (value instanceof Date) return new Date(value.getTime());
    if (value instanceof RegExp) return new RegExp(value.source, value.flags);
    if (ArrayBuffer.isView(value) || value instanceof ArrayBuffer) return this.#bytes(value);
    const kind = tagOf(value);
    switch (kind) {
      case "URL":
        return this.#url((value as { readonly href: string }).href);
      case "URLSearchParams":
      case "FormData":
      case "Headers":
        return Object.fromEntries(this.#fields([...(value as Iterable<Entry<string>>)], path));
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
    const copy: Record<PropertyKey, unknown> = {};
    const count = Math.min(keys.length, this.#terms.length);
    for (let at = 0; at < count; at++) {
      const key = keys[at] as string;
      const field = this.#named(nameOfKey(key), Reflect.get(value, key), path);
      // An assignment would set the prototype.
      if (key === "__proto__")
        Object.defineProperty(copy, key, {
          value: field,
          enumerable: true,
          configurable: true,
          writable: true,
        });
      else copy[key] = field;
    }
    return copy;
  }

  #text(value: string): string {
    const { length } = this.#terms;
    if (this.#isSecret(value)) return REDACTED;
    const shown = withoutCredentials(value);
    return shown.length > length ? `${shown.slice(0, length)}… (${shown.length} characters)` : shown;
  }

  #bytes(value: ArrayBuffer | ArrayBufferView): unknown {
    if (!this.#terms.isEncoded) return `[${classNameOf(value)} of ${value.byteLength} bytes]`;
    return value instanceof Uint8Array ? Uint8Array.from(value) : value;
  }

  #url(href: string): string {
    const shown = withoutCredentials(href).replace(
      /([?&#])([^=&#]+)=([^&#]*)/g,
      (whole, mark: string, name: string) => (hasSecretName(name) ? `${mark}${name}=${REDACTED}` : whole),
    );
    return this.#text(shown);
  }

  #exchange({ method, status, url, headers }: HttpMessage, path: Path): unknown {
    const entries = Object.entries({ method, status, headers }).filter(([, value]) => value !== undefined);
    const shown = url && /^[a-z][a-z0-9+.-]*:/i.test(url) ? this.#url(url) : url;
    return { url: shown, ...Object.fromEntries(this.#fields(entries, path)) };
  }

  #list(value: readonly unknown[], path: Path): unknown[] {
    const { length } = this.#terms;
    const items = value
      .slice(0, length)
      .map((item, index) => this.#field(item, this.#within(path, String(index))));
    return value.length > length ? [...items, `… (${value.length} items)`] : items;
  }

  #map(value: ReadonlyMap<unknown, unknown>, path: Path): ReadonlyMap<unknown, unknown> {
    const entries = this.#fields([...value], path);
    return new Map(entries.map(([key, item]) => [this.of(key, this.#within(path, "key")), item]));
  }

  #fields<Key>(entries: readonly Entry<Key>[], path: Path): [Key, unknown][] {
    return entries
      .slice(0, this.#terms.length)
      .map(([key, value]) => [key, this.#named(nameOfKey(key), value, path)]);
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
    return this.#terms.steps.some((pattern) => matches(pattern, path)) ? REDACTED : this.of(value, path);
  }

  /** A copy of the same class. JSON, which most loggers write, gets the properties that JSON leaves out of errors. */
  #error(error: Error, path: Path): Error {
    const own = Object.getOwnPropertyDescriptors(error) as Record<string, PropertyDescriptor>;
    const fields: Record<string, unknown> = {};
    for (const [key, { enumerable = false }] of Object.entries(own)) {
      const held: unknown = Reflect.get(error, key);
      const isText = (key === "stack" || key === "message") && typeof held === "string";
      const value = isText ? this.#longText(held) : this.#named(key, held, path);
      own[key] = { value, enumerable, configurable: true, writable: true };
      fields[key] = value;
    }
    const { message, stack, ...others } = fields;
    const json = {
      type: classNameOf(error),
      message: message ?? this.#longText(error.message),
      stack,
      ...others,
    };
    own["toJSON"] = { value: () => json, configurable: true, writable: true };
    return Object.create(Object.getPrototypeOf(error), own) as Error;
  }

  /** The message or the stack of an error, which is not cut. */
  #longText(text: string): string {
    return this.#isSecret(text) ? REDACTED : withoutCredentials(text);
  }

  #isSecret(text: string): boolean {
    // `search` ignores `lastIndex`; `test` with a global pattern would miss every other match.
    return this.#terms.values.some((pattern) => text.search(pattern) >= 0);
  }
}

/** The part of `Request` and `Response` that is logged. */
interface HttpMessage {
  readonly method?: string;
  readonly status?: number;
  readonly url?: string;
  readonly headers?: object;
}

/** Redacts the passwords of URLs in a text. */
function withoutCredentials(text: string): string {
  return text.includes("://")
    ? text.replace(/(\b[a-z][a-z0-9+.-]*:\/\/[^\s/:@]*:)[^\s/@]+@/gi, `$1${REDACTED}@`)
    : text;
}

function tagOf(value: object): string {
  return Object.prototype.toString.call(value).slice(8, -1);
}

function classNameOf(value: object): string {
  const name: unknown = (Object.getPrototypeOf(value) as { constructor?: { name?: unknown } } | null)
    ?.constructor?.name;
  return typeof name === "string" && name ? name : "Object";
}

function enumerableKeys(value: object): readonly PropertyKey[] {
  const keys: PropertyKey[] = Object.keys(value);
  const symbols = Object.getOwnPropertySymbols(value);
  if (symbols.length === 0) return keys;
  return [...keys, ...symbols.filter((key) => Object.prototype.propertyIsEnumerable.call(value, key))];
}

function isPlain(value: object): boolean {
  const prototype: unknown = Object.getPrototypeOf(value);
  return prototype === null || prototype === Object.prototype;
}

function nameOfKey(key: unknown): string {
  return typeof key === "symbol" ? (key.description ?? "") : typeof key === "object" ? "" : String(key);
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
