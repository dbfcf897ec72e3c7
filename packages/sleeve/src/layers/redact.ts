const SECRET =
  /pass(word|phrase|code)|secret|token|credential|authori[sz]ation|api[-_]?key|private[-_]?key|cookie/i;

/** What stands in a log where a secret was. */
export const REDACTED = "[redacted]";

/** What must not be written down, besides what is named like a secret. */
export interface Redaction {
  /** Members whose arguments and results are blotted out whole. */
  readonly members?: readonly string[];
  /** Fields, by their path in an argument or a result: `skipper.phone`. `*` stands for any one step. */
  readonly paths?: readonly string[];
  /** Texts that match are blotted out wherever they are. */
  readonly values?: readonly RegExp[];
}

/** Whether a member or a field is named like something that must not be written down. */
export function isNamedLikeSecret(name: string): boolean {
  return SECRET.test(name);
}

/** Makes a copy of a value that is fit for a log. */
export type Redact = (value: unknown) => unknown;

/**
 * How the arguments and results of one member are made fit for a log: as copies, in which secrets are blotted out, texts longer than
 * `length` and lists longer than `length` are cut, nothing is followed deeper than four levels, and no more than a thousand
 * things are written down of one value, unless more is asked for. Values of the language, such as dates, and errors without a secret stay as they are.
 */
export function redacting(
  member: string,
  redaction: Redaction,
  length: number,
  { depth, most }: Extent = { depth: DEPTH, most: MOST },
): Redact {
  if (isNamedLikeSecret(member) || redaction.members?.includes(member)) return () => REDACTED;
  const terms: Terms = {
    depth,
    most,
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

/** How much of a value is followed. */
interface Extent {
  readonly depth: number;
  /** How many things are written down of one value. */
  readonly most: number;
}

interface Terms extends Extent {
  readonly steps: readonly (readonly string[])[];
  readonly values: readonly RegExp[];
  readonly length: number;
}

const DEPTH = 4;
const MOST = 1000;

/** The making of one copy. */
class Copy {
  readonly #terms: Terms;
  #left: number;
  /** How many secrets were blotted out. */
  #blotted = 0;

  constructor(terms: Terms) {
    this.#terms = terms;
    this.#left = terms.most;
  }

  of(value: unknown, path: readonly string[]): unknown {
    if (typeof value === "string") return this.#text(value);
    if (typeof value !== "object" || value === null) return value;
    if (isValueOfLanguage(value)) return value;
    this.#left -= 1;
    if (this.#left < 0 || path.length === this.#terms.depth) return "…";
    if (value instanceof Error) return this.#error(value, path);
    if (Array.isArray(value)) return this.#list(value, path);
    if (value instanceof Set) return this.#list([...value], path);
    if (value instanceof Map) return new Map(this.#fields([...value], path));
    if ("toJSON" in value && typeof value.toJSON === "function") return this.of(value.toJSON(), path);
    const entries = Object.entries(value);
    // One that keeps everything to itself has nothing to hide, and its class tells more than an empty copy.
    return entries.length === 0 ? value : Object.fromEntries(this.#fields(entries, path));
  }

  #text(value: string): string {
    const { length } = this.#terms;
    if (this.#isSecret(value)) return this.#blot();
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
    return isNamedLikeSecret(name) ? this.#blot() : this.#field(value, [...path, name]);
  }

  #field(value: unknown, path: readonly string[]): unknown {
    return this.#terms.steps.some((pattern) => matches(pattern, path)) ? this.#blot() : this.of(value, path);
  }

  /** The error itself or, where it carries a secret, one of the same class that does not. */
  #error(error: Error, path: readonly string[]): Error {
    const before = this.#blotted;
    const own = Object.getOwnPropertyDescriptors(error) as Record<string, PropertyDescriptor>;
    for (const [key, { enumerable = false }] of Object.entries(own)) {
      const held: unknown = Reflect.get(error, key);
      const isText = key === "stack" || key === "message";
      const value = isText ? (this.#isSecret(held) ? this.#blot() : held) : this.#named(key, held, path);
      own[key] = { value, enumerable, configurable: true, writable: true };
    }
    return this.#blotted > before ? (Object.create(Object.getPrototypeOf(error), own) as Error) : error;
  }

  #isSecret(text: unknown): boolean {
    // A pattern that remembers where it left off would find every other secret.
    return typeof text === "string" && this.#terms.values.some((pattern) => text.search(pattern) >= 0);
  }

  #blot(): string {
    this.#blotted += 1;
    return REDACTED;
  }
}

function matches(pattern: readonly string[], path: readonly string[]): boolean {
  return (
    pattern.length === path.length && pattern.every((step, index) => step === "*" || step === path[index])
  );
}

/** Whether an object has nothing to be read by its keys, or so much that it is told of by its class. */
function isValueOfLanguage(value: object): boolean {
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
