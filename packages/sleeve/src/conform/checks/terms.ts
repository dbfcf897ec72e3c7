import { layer } from "../../layers/layer.ts";
import { succeeded } from "../../layers/outcome.ts";
import { decorate } from "../../wrappers/decorate.ts";
import type { ErrorClass, Refusal } from "../contract.ts";
import type { Finding } from "../finding.ts";
import { errorText, reasonOf, shown } from "../text.ts";

/** Whether an example holds. */
export async function exampleFindings<Target>(
  name: string,
  example: (implementation: Target) => unknown,
  implementation: Target,
): Promise<readonly Finding[]> {
  try {
    if ((await example(implementation)) !== false) return [];
    return [exampleFinding(name, "it gave false")];
  } catch (error) {
    return [exampleFinding(name, reasonOf(error))];
  }
}

function exampleFinding(place: string, found: string): Finding {
  const remedy = "Mend the wrapper, or the example if it asks for too much.";
  return { name: "example", place, expected: "the example to hold", found, remedy };
}

/** Whether a call fails as it has to. */
export async function refusalFindings<Target>(
  place: string,
  { call, error: expected }: Refusal<Target>,
  implementation: Target,
): Promise<readonly Finding[]> {
  let found: string;
  try {
    found = `the answer ${shown(await call(implementation))}`;
  } catch (error) {
    if (error instanceof expected) return [];
    found = errorText(error);
  }
  const remedy = `Let the wrapper fail with ${expected.name}; an error must not be swallowed.`;
  return [{ name: "refusal", place, expected: `the call to fail with ${expected.name}`, found, remedy }];
}

/** The implementation, with a note taken of every error that no class in `allowed` accounts for. */
export function watchingErrors<Target extends object>(
  implementation: Target,
  allowed: readonly ErrorClass[],
  escaped: Finding[],
): Target {
  const watch = layer("watchingErrors", {
    watch:
      ({ label }) =>
      () =>
      (outcome) => {
        if (succeeded(outcome) || isAllowed(outcome.error, allowed)) return;
        escaped.push(escapedFinding(label, `${outcome.status} ${errorText(outcome.error)}`, allowed));
      },
  });
  return decorate(implementation, watch);
}

export function isAllowed(error: unknown, allowed: readonly ErrorClass[]): boolean {
  return allowed.some((each) => error instanceof each);
}

export function escapedFinding(place: string, found: string, allowed: readonly ErrorClass[]): Finding {
  return {
    name: "escaped",
    place,
    expected: allowed.length > 0 ? `no error but ${allowed.map(({ name }) => name).join(", ")}` : "no error",
    found,
    remedy: "Translate the error in the wrapper, or list its class in the contract's errors.",
  };
}
