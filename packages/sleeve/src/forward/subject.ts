import { SleeveError } from "../errors.ts";

/** Refuses what cannot be wrapped. `wrapper` says which wrapper was being made, and `role` what the value is to it. */
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
      `${name} was given ${value} where its ${role} should be. Create the ${role} before you wrap it.`,
    );
  }
  throw new SleeveError(
    "NOT_AN_OBJECT",
    `${name} was given a ${typeof value} where its ${role} should be; it wraps objects, functions and ` +
      "classes. Hand it an object that holds the value.",
  );
}

/** What to call a subject in a message: `a GaugeFeed`, `an object`. Reads nothing but the name of its class. */
export function describe(subject: object): string {
  const subjectClass: unknown = Object.getPrototypeOf(subject)?.constructor;
  const name = typeof subjectClass === "function" && subjectClass !== Object ? subjectClass.name : "";
  if (!name) return "an object";
  return `${/^[aeiou]/i.test(name) ? "an" : "a"} ${name}`;
}
