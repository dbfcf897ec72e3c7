/** The findings of contracts, each with its meaning. A name that `sleeve check` reports too has the same meaning there. */
export const FINDINGS = {
  setup: "An implementation that could not be created or released.",
  missing: "A member of the target is missing.",
  kind: "A method where the target has a property or constructor, or vice versa.",
  example: "An example that does not hold.",
  law: "A law that does not hold.",
  refusal: "A call that must fail and succeeded, or failed with another error.",
  escaped: "An error of a class that the contract does not allow, such as one of the outside module.",
  nonerror: "A thrown value that is not an error.",
  argument: "An argument that was changed on its way to the subject.",
  result: "A result or property value that does not match the target.",
  error: "An error other than expected, or none.",
  async: "A synchronous result for an asynchronous one or vice versa, or a dropped promise.",
  fluent: "A method that returns something else where the subject returns itself.",
  leak: "Something of the outside, a type or an object, that clients of the target can reach.",
  calls: "A call that did not reach its subject exactly once.",
  order: "Calls or results in another order than the subject's.",
  receiver: "A method called with another `this` than its subject.",
  callback: "A callback called otherwise than expected.",
  release: "An owned resource that was not released exactly once, or a borrowed one that was released.",
  step: "A step out of order, or after a refusal.",
  undo: "A step that was not undone, or undone out of order.",
  reentry: "A subsystem that calls its facade.",
  swap: "A call that was lost or duplicated while implementations were switched.",
  stale: "A cached result that the subject would not have returned.",
  unguarded: "A rejected call that still reached the subject.",
  shared: "Two separately created implementations that share state.",
  unsettled: "A call that did not end within its timeout.",
  mutated: "An argument changed by the call.",
  unstable: "An object whose members changed during use.",
  outdated: "A recording that differs from its subject.",
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
