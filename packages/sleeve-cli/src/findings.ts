/**
 * The ways in which a wrapper can fall short of its target, or a border of what it is to keep out, each with what it says.
 */
export const FINDINGS = {
  missing: "The target has a member that the wrapper lacks.",
  extra: "A member that the target lacks: in a mapping, or a misspelt name of one that is optional.",
  kind: "A method where the target has a property or something to construct, or the other way round.",
  parameter: "A parameter takes less than the target sends.",
  result: "A result or a property's value is not what the target promises.",
  async: "Sync for async or async for sync, a dropped promise among them.",
  optional: "A member that the target requires may be absent.",
  readonly: "The target may be written where the wrapper may not.",
  overload: "An overload of the target that no signature of the wrapper serves.",
  signature: "A generic signature that does not fit as a whole.",
  enum: "A number where an enumeration is expected: any number passes the compiler.",
  weak: "A misspelt name in the place of an optional one: the compiler takes it for another name.",
  unproven: "`any` on either side: the compiler lets it pass, and it proves nothing.",
  assertion: "An assertion or a comment that keeps the compiler from telling that something does not fit.",
  ignored: "An argument that the target sends and the wrapper makes nothing of.",
  inherited: "Members of an adaptee that the wrapper extends, in reach of the wrapper's clients.",
  leak: "A type of an outside package in what is public: a wrapper's members, or what a file exports.",
  unclosed: "Something that the wrapper makes and keeps and cannot be asked to close.",
  unbound: "A member that needs `this`, where clients take it off the target and call it alone.",
  work: "A facade that does the work itself beside delegating it.",
  compile:
    "The compiler itself finds an error in the wrapper, or does not take it for the target as a whole.",
  border: "An outside package is imported by a file that may not, directly or through a file of ours.",
  target: "The file of a target imports something from outside.",
  subsystem: "A file that a facade stands before imports the facade.",
} as const;

export type FindingName = keyof typeof FINDINGS;

/** How much a finding counts: an error fails the check, a warning is told, and what is off is not looked for. */
export type Level = (typeof LEVELS)[number];

export const LEVELS = ["error", "warning", "off"] as const;

export function isFindingName(name: string): name is FindingName {
  return Object.hasOwn(FINDINGS, name);
}
