const SECRET =
  /pass(word|phrase|code)|secret|token|credential|authori[sz]ation|api[-_]?key|private[-_]?key|cookie/i;

/** Replaces a secret in a log. */
export const REDACTED = "[redacted]";

/** What to redact, besides members and fields that are named like secrets. */
export interface Redaction {
  /** Members whose arguments and results are redacted completely. */
  readonly members?: readonly string[];
  /** Fields, by their path in an argument or result: `skipper.phone`. `*` matches any one step. */
  readonly paths?: readonly string[];
  /** Patterns of strings that are redacted wherever they occur. */
  readonly values?: readonly RegExp[];
}

/** Whether a member or field is named like a secret. */
function hasSecretName(name: string): boolean {
  return SECRET.test(name);
}

/** Returns a copy of a value that is safe to log. */
export type Redact = (value: unknown) => unknown;

/**
 * Creates the function that copies arguments and results of one member for a log.
 *
 * Secrets are redacted. Strings and lists longer than `length` are cut. Copies are at most four levels deep
 * with at most a thousand entries, unless `extent` says otherwise. Built-in values such as dates, and errors
 * without secrets, pass unchanged.
 */
export function redacting(
  member: string,
  redaction: Redaction,
  length: number,
  { depth, maxEntries }: Extent = { depth: MAX_DEPTH, maxEntries: MAX_ENTRIES },
): Redact {
  if (hasSecretName(member) || redaction.members?.includes(member)) return () => REDACTED;
  const terms: Terms = {
    depth,
    maxEntries,
    steps: redaction.paths?.map((path) => path.split(".")) ?? [],
    values: redaction.values ?? [],
    length,
  };
  return (value) => {
    try {
      return new Copy(terms).of(value, []);
    } catch {
      return "[unreadable]";
    }
  };
}

/** How much of a value is copied. */
interface Extent {
  readonly depth: number;
  /** Maximum number of objects copied from one value. */
  readonly maxEntries: number;
}

interface Terms extends Extent {
  readonly steps: readonly (readonly string[])[];
  readonly values: readonly RegExp[];
  readonly length: number;
}

const MAX_DEPTH = 4;
const MAX_ENTRIES = 1000;

/** Creates one copy. */
class Copy {
  readonly #terms: Terms;
  #remaining: number;
  /** Number of secrets redacted so far. */
  #redactedCount = 0;

  constructor(terms: Terms) {
    this.#terms = terms;
    this.#remaining = terms.maxEntries;
  }

  of(value: unknown, path: readonly string[]): unknown {
    if (typeof value === "string") return this.#text(value);
    if (typeof value !== "object" || value === null) return value;
    if (isBuiltinValue(value)) return value;
    this.#remaining -= 1;
    if (this.#remaining < 0 || path.length === this.#terms.depth) return "…";
    if (value instanceof Error) return this.#error(value, path);
    if (Array.isArray(value)) return this.#list(value, path);
    if (value instanceof Set) return this.#list([...value], path);
    if (value instanceof Map) return new Map(this.#fields([...value], path));
    if ("toJSON" in value && typeof value.toJSON === "function") return this.of(value.toJSON(), path);
    const entries = Object.entries(value);
    // An object without readable fields exposes nothing, and its class says more than an empty copy.
    return entries.length === 0 ? value : Object.fromEntries(this.#fields(entries, path));
  }

  #text(value: string): string {
    const { length } = this.#terms;
    if (this.#isSecret(value)) return this.#redact();
    return value.length > length ? `${value.slice(0, length)}… (${value.length} characters)` : value;
  }

  #list(value: readonly unknown[], path: readonly string[]): unknown[] {
    const { length } = this.#terms;
    const items = value.slice(0, length).map((item, index) => this.#field(item, [...path, String(index)]));
    return value.length > length ? [...items, `… (${value.length} items)`] : items;
  }

  #fields<Key>(entries: readonly (readonly [Key, unknown])[], path: readonly string[]): [Key, unknown][] {
    return entries
      .slice(0, this.#terms.length)
      .map(([key, value]) => [key, this.#named(String(key), value, path)]);
  }

  #named(name: string, value: unknown, path: readonly string[]): unknown {
    return hasSecretName(name) ? this.#redact() : this.#field(value, [...path, name]);
  }

  #field(value: unknown, path: readonly string[]): unknown {
    return this.#terms.steps.some((pattern) => matches(pattern, path))
      ? this.#redact()
      : this.of(value, path);
  }

  /** The error itself or, if it contains a secret, a redacted error of the same class. */
  #error(error: Error, path: readonly string[]): Error {
    const before = this.#redactedCount;
    const own = Object.getOwnPropertyDescriptors(error) as Record<string, PropertyDescriptor>;
    for (const [key, { enumerable = false }] of Object.entries(own)) {
      const held: unknown = Reflect.get(error, key);
      const isText = key === "stack" || key === "message";
      const value = isText ? (this.#isSecret(held) ? this.#redact() : held) : this.#named(key, held, path);
      own[key] = { value, enumerable, configurable: true, writable: true };
    }
    return this.#redactedCount > before ? (Object.create(Object.getPrototypeOf(error), own) as Error) : error;
  }

  #isSecret(text: unknown): boolean {
    // `search` ignores `lastIndex`; `test` with a global pattern would miss every other match.
    return typeof text === "string" && this.#terms.values.some((pattern) => text.search(pattern) >= 0);
  }

  #redact(): string {
    this.#redactedCount += 1;
    return REDACTED;
  }
}

function matches(pattern: readonly string[], path: readonly string[]): boolean {
  return (
    pattern.length === path.length && pattern.every((step, index) => step === "*" || step === path[index])
  );
}

/** Whether an object has no readable fields, or too many to be useful, so that its class is logged. */
function isBuiltinValue(value: object): boolean {
  return (
    value instanceof Date ||
    value instanceof RegExp ||
    value instanceof Promise ||
    value instanceof WeakMap ||
    value instanceof WeakSet ||
    value instanceof ArrayBuffer ||
    ArrayBuffer.isView(value)
  );
}
