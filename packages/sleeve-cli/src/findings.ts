/**
 * The findings of `sleeve check`, each with its meaning. A name that contracts report too has the same meaning there.
 */
export const FINDINGS = {
  missing: "A member of the target is missing.",
  extra: "A member that the target lacks: an entry of a mapping, or a misspelt optional name.",
  kind: "A method where the target has a property or constructor, or vice versa.",
  parameter: "A parameter accepts less than the target sends.",
  result: "A result or property value that does not match the target.",
  async: "A synchronous result for an asynchronous one or vice versa, or a dropped promise.",
  optional: "A member that the target requires may be missing.",
  readonly: "The target is writable where the wrapper is not.",
  overload: "No signature of the wrapper implements an overload of the target.",
  signature: "A generic signature that is not assignable as a whole.",
  enum: "A number where an enumeration is expected; the compiler accepts any number.",
  misspelt: "A misspelt optional name; the compiler treats it as a different name.",
  unproven: "`any` on either side; the compiler accepts it, and it proves nothing.",
  assertion: "An assertion or comment that hides a type error.",
  unused: "An argument that the target sends and the wrapper never uses.",
  inherited: "Members of an extended adaptee that clients of the wrapper can access.",
  leak: "Something of the outside, a type or an object, that clients of the target can reach.",
  unclosed: "A resource that the wrapper creates and offers no way to close.",
  unbound: "A member that uses `this`, although clients call it without a receiver.",
  logic: "A facade with logic of its own besides delegating.",
  compile: "The compiler reports an error in the wrapper, or does not accept it as the target.",
  border: "A file outside the border imports the package, directly or through another file.",
  computed: "An import whose specifier is computed, so that no border can be checked for it.",
  debt: "More outside types are aliased, or values re-exported, than `maxDebt` allows.",
  import: "The file of a target imports an outside module.",
  generated: "A generated file was edited, or its type has changed since.",
  unmatched: "A name in the config that matches nothing.",
  subsystem: "A subsystem of a facade imports the facade.",
} as const;

export type CheckFindingName = keyof typeof FINDINGS;

/** The severity of a finding: an error fails the check, a warning is only reported, and `off` disables it. */
export type Severity = (typeof SEVERITIES)[number];

export const SEVERITIES = ["error", "warning", "off"] as const;

/** Severities of findings that are not errors. */
export const DEFAULT_SEVERITIES: Partial<Record<CheckFindingName, Severity>> = { computed: "warning" };

export function isFindingName(name: string): name is CheckFindingName {
  return Object.hasOwn(FINDINGS, name);
}
