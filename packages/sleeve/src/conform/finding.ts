/** The ways in which an implementation can fall short of its contract, each with what it is about. */
export const FINDINGS = {
  setup: "an implementation that could not be made or released",
  missing: "a member that is not there",
  kind: "a method where a property is expected, or the other way round",
  example: "an example that does not hold",
  law: "a law that does not hold",
  refusal: "a call that had to fail and did not, or failed otherwise",
  escaped: "an error that reached the client though nobody allowed it, an outside one say",
  nonerror: "something thrown that is no error",
  argument: "an argument that did not arrive as it was sent",
  result: "a result other than expected",
  error: "an error other than expected, or none",
  async: "an answer at once where a promise is expected, or the other way round",
  fluent: "the subject, or something else, where the wrapper itself is to be given back",
  leak: "an object that a client must not get hold of",
  calls: "a call that did not reach its subject exactly once",
  order: "calls or answers in another order than the subject's",
  receiver: "a method that was called on something else than its subject",
  callback: "a callback that is called otherwise than expected",
  release: "something owned that was not released exactly once, or something borrowed that was",
  step: "a step that was made out of order, or after a refusal",
  undo: "a step that was not undone, or out of order",
  reentry: "a subsystem that calls its facade",
  swap: "a call that was lost, or made twice, while implementations were changed",
  stale: "an answer from a cache that its subject would not have given",
  unguarded: "a call that was refused and yet made",
  shared: "two implementations that were made one by one and yet share their state",
  unsettled: "a call that did not end within its deadline",
  mutated: "an argument that was changed by the call",
  shape: "an object whose members came or went while it was used",
  untrue: "a recording that does not tell what its subject does",
} as const;

export type FindingName = keyof typeof FINDINGS;

/** One way in which an implementation falls short: where, what was expected, what was found, and what to do. */
export interface Finding {
  readonly name: FindingName;
  /** The check that it came from, or the member it is about. */
  readonly place: string;
  readonly expected: string;
  readonly found: string;
  readonly remedy: string;
  /** The shortest sequence of calls that shows it, as code for a test, where there is one. */
  readonly code?: string;
}

/** A finding as text of a few lines, for an assertion's message or a terminal. */
export function findingText({ name, place, expected, found, remedy, code }: Finding): string {
  const text = `${name}: ${place}\n  expected ${expected}\n  found    ${found}\n  remedy   ${remedy}`;
  return code === undefined ? text : `${text}\n  to see it\n${indented(code)}`;
}

function indented(code: string): string {
  return code
    .split("\n")
    .map((line) => `    ${line}`)
    .join("\n");
}
