import { SleeveError } from "../shared/errors.ts";

/**
 * Throws if a value cannot be wrapped. `wrapper` names the wrapper being created, and `role` the role of the
 * value.
 */
export function requireObject(
  value: unknown,
  wrapper: string | (() => string),
  role: "subject" | "adaptee",
): object {
  if (typeof value === "object" && value !== null) return value;
  if (typeof value === "function") return value;
  const name = typeof wrapper === "string" ? wrapper : wrapper();
  if (value === undefined || value === null) {
    throw new SleeveError(
      "NO_SUBJECT",
      `${name}: the ${role} is ${value}. Create the ${role} before you wrap it.`,
    );
  }
  throw new SleeveError(
    "NOT_AN_OBJECT",
    `${name}: the ${role} is a ${typeof value}; only objects, functions and classes can be wrapped. ` +
      "Pass an object that holds the value.",
  );
}

/** Describes a subject in a message: `a GaugeFeed`, `an object`. Reads only the name of its class. */
export function describe(subject: object): string {
  const subjectClass: unknown = Object.getPrototypeOf(subject)?.constructor;
  const name = typeof subjectClass === "function" && subjectClass !== Object ? subjectClass.name : "";
  if (!name) return "an object";
  return `${/^[aeiou]/i.test(name) ? "an" : "a"} ${name}`;
}
