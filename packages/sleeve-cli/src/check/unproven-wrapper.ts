import type { Checker, Type } from "../compiler/syntax.ts";
import { isUntyped, requiresNothing } from "../conformance/exported.ts";
import type { Finding } from "../documents/check-document.ts";
import type { Place } from "../documents/place.ts";

/** A finding for a wrapper that cannot be compared member by member. */
export function unprovenWrapper(
  checker: Checker,
  declared: Type,
  target: Type | undefined,
  wrapper: Type,
  place: Place,
): Finding | undefined {
  const text = checker.typeToString(declared);
  if (!target) {
    const remedy = "Let the class implement it, or annotate the value, with type arguments.";
    return unprovenFinding(place, {
      expected: `${text} with type arguments`,
      found: checker.typeToString(wrapper),
      remedy,
    });
  }
  if (requiresNothing(checker, target)) {
    return unprovenFinding(place, {
      expected: "a target with members",
      found: text,
      remedy: "Use an interface, a type, a class or a function as the target.",
    });
  }
  if (isUntyped(wrapper)) {
    return unprovenFinding(place, {
      expected: text,
      found: checker.typeToString(wrapper),
      remedy: "Annotate the wrapper; this type proves nothing.",
    });
  }
  return undefined;
}

export function unprovenFinding(
  place: Place,
  texts: Pick<Finding, "expected" | "found" | "remedy">,
): Finding {
  return { name: "unproven", member: null, place, ...texts };
}
