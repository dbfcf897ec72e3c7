const SECRET =
  /pass(word|phrase|code)|secret|token|credential|authori[sz]ation|api[-_]?key|private[-_]?key|cookie/i;

/** What stands in a log where a secret was. */
export const REDACTED = "[redacted]";

/** Whether a member or a field is named like something that must not be written down. */
export function isNamedLikeSecret(name: string): boolean {
  return SECRET.test(name);
}

/**
 * A copy of a value fit for a log: fields named like secrets are blotted out, as deep as four levels; anything
 * deeper, and objects of classes other than plain ones, are handed on as they are.
 */
export function redact(value: unknown, depth = 4): unknown {
  if (depth === 0 || typeof value !== "object" || value === null) return value;
  if (Array.isArray(value)) return value.map((item) => redact(item, depth - 1));
  if (!isPlain(value)) return value;
  return Object.fromEntries(
    Object.entries(value).map(([key, field]) => [
      key,
      isNamedLikeSecret(key) ? REDACTED : redact(field, depth - 1),
    ]),
  );
}

function isPlain(value: object): boolean {
  const prototype: unknown = Object.getPrototypeOf(value);
  return prototype === null || prototype === Object.prototype;
}
