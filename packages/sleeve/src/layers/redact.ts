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
 * How the arguments and results of one member are made fit for a log: secrets are blotted out, texts longer than
 * `length` and lists longer than `length` are cut, and nothing is followed deeper than four levels. Objects of other
 * classes than plain ones are handed on as they are.
 */
export function redacting(member: string, { members, paths, values }: Redaction, length: number): Redact {
  if (isNamedLikeSecret(member) || members?.includes(member)) return () => REDACTED;
  const steps = paths?.map((path) => path.split("."));
  const redact = (value: unknown, path: readonly string[]): unknown => {
    if (typeof value === "string") {
      // A pattern that remembers where it left off would find every other secret.
      if (values?.some((pattern) => value.search(pattern) >= 0)) return REDACTED;
      return value.length > length ? `${value.slice(0, length)}… (${value.length} characters)` : value;
    }
    if (typeof value !== "object" || value === null || path.length === DEPTH) return value;
    if (Array.isArray(value)) {
      const items = value.slice(0, length).map((item, index) => field(item, [...path, String(index)]));
      return value.length > length ? [...items, `… (${value.length} items)`] : items;
    }
    if (!isPlain(value)) return value;
    return Object.fromEntries(
      Object.entries(value).map(([key, each]) => [
        key,
        isNamedLikeSecret(key) ? REDACTED : field(each, [...path, key]),
      ]),
    );
  };
  const field = (value: unknown, path: readonly string[]): unknown =>
    steps?.some((pattern) => matches(pattern, path)) ? REDACTED : redact(value, path);
  return (value) => {
    try {
      return redact(value, []);
    } catch {
      return "[unreadable]";
    }
  };
}

const DEPTH = 4;

function matches(pattern: readonly string[], path: readonly string[]): boolean {
  return (
    pattern.length === path.length && pattern.every((step, index) => step === "*" || step === path[index])
  );
}

function isPlain(value: object): boolean {
  const prototype: unknown = Object.getPrototypeOf(value);
  return prototype === null || prototype === Object.prototype;
}
