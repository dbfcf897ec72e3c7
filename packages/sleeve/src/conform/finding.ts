/** The findings of contracts, each with its meaning. */
export const FINDINGS = {
  setup: "an implementation that could not be created or released",
  missing: "a missing member",
  kind: "a method where a property is expected, or vice versa",
  example: "an example that does not hold",
  law: "a law that does not hold",
  refusal: "a call that must fail and succeeded, or failed with another error",
  escaped: "an error of a class that the contract does not allow, such as one of the outside module",
  nonerror: "a thrown value that is not an error",
  argument: "an argument that was changed on its way to the subject",
  result: "a result other than expected",
  error: "an error other than expected, or none",
  async: "a synchronous result where a promise is expected, or vice versa",
  fluent: "a method that returns something else where the subject returns itself",
  leak: "an outside object, or the subject, exposed to the client",
  calls: "a call that did not reach its subject exactly once",
  order: "calls or results in another order than the subject's",
  receiver: "a method called with another `this` than its subject",
  callback: "a callback called otherwise than expected",
  release: "an owned resource that was not released exactly once, or a borrowed one that was released",
  step: "a step out of order, or after a refusal",
  undo: "a step that was not undone, or undone out of order",
  reentry: "a subsystem that calls its facade",
  swap: "a call that was lost or duplicated while implementations were switched",
  stale: "a cached result that the subject would not have returned",
  unguarded: "a rejected call that still reached the subject",
  shared: "two separately created implementations that share state",
  unsettled: "a call that did not end within its timeout",
  mutated: "an argument changed by the call",
  shape: "an object whose members changed during use",
  untrue: "a recording that differs from its subject",
} as const;

export type FindingName = keyof typeof FINDINGS;

/** One problem of an implementation: the place, what was expected, what was found, and a remedy. */
export interface Finding {
  readonly name: FindingName;
  /** The check or the member that it belongs to. */
  readonly place: string;
  readonly expected: string;
  readonly found: string;
  readonly remedy: string;
  /** The shortest sequence of calls that shows it, as code for a test, if there is one. */
  readonly code?: string;
}

/** Formats a finding as a few lines, for an assertion message or a terminal. */
export function findingText({ name, place, expected, found, remedy, code }: Finding): string {
  const text = `${name}: ${place}\n  expected ${expected}\n  found    ${found}\n  remedy   ${remedy}`;
  return code === undefined ? text : `${text}\n  reproduce with\n${indented(code)}`;
}

function indented(code: string): string {
  return code
    .split("\n")
    .map((line) => `    ${line}`)
    .join("\n");
}
