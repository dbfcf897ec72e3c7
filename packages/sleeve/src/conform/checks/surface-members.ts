import { describe } from "../../forward/subject.ts";
import { reflect } from "../../surface/reflect.ts";
import type { Finding } from "../finding.ts";
import { untyped, withImplementation } from "../implementation.ts";
import { membersOf } from "../sequences/operations.ts";
import type { Context } from "../types.ts";

/** Checks that an implementation has every member of its surface or, without one, of its reference. */
export async function surfaceFindings<Target extends object>(
  instance: Target,
  { contract: { surface, reference } }: Context<Target>,
): Promise<readonly Finding[]> {
  if (surface) return memberFindings(instance, membersOf(surface, instance));
  if (!reference) return [];
  return withImplementation(untyped(reference), async (referenceInstance) =>
    memberFindings(instance, membersOf(undefined, referenceInstance)),
  );
}

type Expected = ReturnType<typeof membersOf>[number];

/** Returns findings for members that are missing or of another kind than expected. */
export function memberFindings(
  instance: object,
  expected: readonly Expected[],
  isFunction = false,
): readonly Finding[] {
  if (isFunction && typeof instance !== "function") {
    const remedy = "Wrap the function in a function.";
    return [
      { name: "kind", place: "the wrapper", expected: "a function", found: describe(instance), remedy },
    ];
  }
  return expected.flatMap(({ key, kind }): Finding[] => {
    const place = String(key);
    if (!(key in instance) || (kind === "method" && isUndefined(instance, key))) {
      const has =
        reflect(instance)
          .map(({ label }) => label)
          .join(", ") || "no members";
      return [
        {
          name: "missing",
          place,
          expected: `a ${kind} ${place}`,
          found: `no member ${place}; ${describe(instance)} has ${has}`,
          remedy: `Add ${place} to the wrapper.`,
        },
      ];
    }
    const finding = kindAt(instance, key);
    if (finding === undefined || finding === kind) return [];
    // A class, which old code writes as a function, and an object that can be called, too, are properties.
    if (kind === "property" && isObjectToo(Reflect.get(instance, key))) return [];
    return [
      {
        name: "kind",
        place,
        expected: `a ${kind}`,
        found: `a ${finding}`,
        remedy: `Make ${place} a ${kind}.`,
      },
    ];
  });
}

function isUndefined(instance: object, key: PropertyKey): boolean {
  const holder = Object.getOwnPropertyDescriptor(instance, key);
  return holder !== undefined && "value" in holder && holder.value === undefined;
}

/** Whether a function can be constructed, or has members of its own. */
function isObjectToo(value: unknown): boolean {
  return (
    typeof value === "function" && Reflect.ownKeys(value).some((key) => key !== "length" && key !== "name")
  );
}

/** Returns the kind of a member; `undefined` if it cannot be read. */
function kindAt(instance: object, key: PropertyKey): "method" | "property" | undefined {
  try {
    return typeof Reflect.get(instance, key) === "function" ? "method" : "property";
  } catch {
    return undefined;
  }
}
