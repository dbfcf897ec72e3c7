import { describe } from "../../forward/subject.ts";
import { reflect } from "../../surface/reflect.ts";
import type { Finding } from "../finding.ts";
import { untyped, withImplementation } from "../implementation.ts";
import { membersOf } from "../sequences/operations.ts";
import type { Context } from "../types.ts";

/** Checks that an implementation has every member of its surface or, without one, of its reference. */
export async function surfaceFindings<Target extends object>(
  made: Target,
  { contract: { surface, reference } }: Context<Target>,
): Promise<readonly Finding[]> {
  if (surface) return memberFindings(made, membersOf(surface, made));
  if (!reference) return [];
  return withImplementation(untyped(reference), async (known) =>
    memberFindings(made, membersOf(undefined, known)),
  );
}

type Expected = ReturnType<typeof membersOf>[number];

/** Returns findings for members that are missing or of another kind than expected. */
export function memberFindings(
  made: object,
  expected: readonly Expected[],
  isFunction = false,
): readonly Finding[] {
  if (isFunction && typeof made !== "function") {
    const remedy = "Wrap the function in a function.";
    return [{ name: "kind", place: "the wrapper", expected: "a function", found: describe(made), remedy }];
  }
  return expected.flatMap(({ key, kind }): Finding[] => {
    const place = String(key);
    if (!(key in made) || (kind === "method" && isUndefined(made, key))) {
      const has =
        reflect(made)
          .map(({ label }) => label)
          .join(", ") || "no members";
      return [
        {
          name: "missing",
          place,
          expected: `a ${kind} ${place}`,
          found: `no member ${place}; ${describe(made)} has ${has}`,
          remedy: `Add ${place} to the wrapper.`,
        },
      ];
    }
    const found = kindAt(made, key);
    if (found === undefined || found === kind) return [];
    return [
      {
        name: "kind",
        place,
        expected: `a ${kind}`,
        found: `a ${found}`,
        remedy: `Make ${place} a ${kind}.`,
      },
    ];
  });
}

function isUndefined(made: object, key: PropertyKey): boolean {
  const holder = Object.getOwnPropertyDescriptor(made, key);
  return holder !== undefined && "value" in holder && holder.value === undefined;
}

/** Returns the kind of a member; `undefined` if it cannot be read. */
function kindAt(made: object, key: PropertyKey): "method" | "property" | undefined {
  try {
    return typeof Reflect.get(made, key) === "function" ? "method" : "property";
  } catch {
    return undefined;
  }
}
