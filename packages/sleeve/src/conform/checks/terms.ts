import { layer } from "../../layers/layer.ts";
import { succeeded } from "../../layers/outcome.ts";
import { decorate } from "../../wrappers/decorate.ts";
import type { ErrorClass, Refusal } from "../contract.ts";
import { endOf } from "../end.ts";
import type { Finding } from "../finding.ts";
import { guarded, Hung } from "../guarded.ts";
import { isThenable } from "../schema.ts";
import { errorText, reasonOf, shown } from "../text.ts";

/** Whether an example holds. */
export async function exampleFindings<Target>(
  name: string,
  example: (implementation: Target) => unknown,
  implementation: Target,
  deadline: number,
): Promise<readonly Finding[]> {
  try {
    const held = await ended(() => example(implementation), deadline);
    return held === false ? [exampleFinding(name, "it gave false")] : [];
  } catch (error) {
    return error instanceof Hung ? [endlessFinding(name)] : [exampleFinding(name, reasonOf(error))];
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
  deadline: number,
): Promise<readonly Finding[]> {
  let found: string;
  try {
    found = `the answer ${shown(await ended(() => call(implementation), deadline))}`;
  } catch (error) {
    if (error instanceof Hung) return [endlessFinding(place)];
    if (error instanceof expected) return [];
    found = errorText(error);
  }
  const remedy = `Let the wrapper fail with ${expected.name}; an error must not be swallowed.`;
  return [{ name: "refusal", place, expected: `the call to fail with ${expected.name}`, found, remedy }];
}

/** What the author writes makes some calls, each of which may take up to the deadline. */
const MANY_CALLS = 5;

/**
 * What something gives that may wait and may have no end.
 *
 * @throws {Hung} where it has none
 */
export async function ended(run: () => unknown, deadline: number): Promise<unknown> {
  const given = guarded(run, deadline * MANY_CALLS);
  if (!isThenable(given)) return given;
  const end = await endOf(
    given.then((value) => ({ value })),
    deadline * MANY_CALLS,
  );
  if (!end) throw new Hung("no end within the deadline");
  return end.value;
}

function endlessFinding(place: string): Finding {
  const remedy = "Find which of its calls waits, or give the run a longer `deadline`.";
  return { name: "unsettled", place, expected: "an end within the deadline", found: "none", remedy };
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
