/**
 * The ways in which an implementation can fall short of its contract.
 *
 * `missing` and `kind` are about its surface. `example`, `law` and `refusal` are about what it does. `escaped` is an
 * error that reached the client though the contract does not list it, and `setup` is about an implementation that
 * could not be made or released.
 */
export type FindingName = "missing" | "kind" | "example" | "law" | "refusal" | "escaped" | "setup";

/** One way in which an implementation falls short: where, what was expected, what was found, and what to do. */
export interface Finding {
  readonly name: FindingName;
  /** The check that it came from, or the member it is about. */
  readonly place: string;
  readonly expected: string;
  readonly found: string;
  readonly remedy: string;
}

/** A finding as text of a few lines, for an assertion's message or a terminal. */
export function findingText({ name, place, expected, found, remedy }: Finding): string {
  return `${name}: ${place}\n  expected ${expected}\n  found    ${found}\n  remedy   ${remedy}`;
}
