import { describe } from "../../forward/subject.ts";
import { reflect } from "../../surface/reflect.ts";
import type { Context } from "../context.ts";
import type { Finding } from "../finding.ts";
import { lend, untyped } from "../implementation.ts";
import { membersOf } from "../operations.ts";

/** Whether an implementation has every member of its surface or, where none was named, of its reference. */
export async function surfaceFindings<Target extends object>(
  made: Target,
  { contract: { surface, reference } }: Context<Target>,
): Promise<readonly Finding[]> {
  if (surface) return memberFindings(made, membersOf(surface, made));
  if (!reference) return [];
  return lend(untyped(reference), async (known) => memberFindings(made, membersOf(undefined, known)));
}

type Expected = ReturnType<typeof membersOf>[number];

/** Which members are missing from an object, or of another kind than expected. */
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
          found: `none; ${describe(made)} has ${has}`,
          remedy: `Give the wrapper its ${place}.`,
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

/** The kind of a member; `undefined` where it cannot be read. */
function kindAt(made: object, key: PropertyKey): "method" | "property" | undefined {
  try {
    return typeof Reflect.get(made, key) === "function" ? "method" : "property";
  } catch {
    return undefined;
  }
}
