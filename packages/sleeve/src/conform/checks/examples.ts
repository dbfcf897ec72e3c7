import { layer } from "../../layers/layer.ts";
import { succeeded } from "../../shared/outcome.ts";
import { isThenable } from "../../shared/thenable.ts";
import { decorate } from "../../wrappers/decorate.ts";
import { withTimeout } from "../execution/timeout.ts";
import { runWithWatchdog, WatchdogTimeout } from "../execution/watchdog.ts";
import type { Finding } from "../finding.ts";
import type { ErrorClass, ExpectedRefusal } from "../types.ts";
import { errorText, formatValue, reasonOf } from "../values/format.ts";

/** Checks that an example holds. */
export async function exampleFindings<Target>(
  name: string,
  example: (implementation: Target) => unknown,
  implementation: Target,
  timeout: number,
): Promise<readonly Finding[]> {
  try {
    const answer = await settleWithin(() => example(implementation), timeout);
    return answer === false ? [exampleFinding(name, "it returned false")] : [];
  } catch (error) {
    return error instanceof WatchdogTimeout
      ? [endlessFinding(name)]
      : [exampleFinding(name, reasonOf(error))];
  }
}

function exampleFinding(place: string, actual: string): Finding {
  const remedy = "Fix the wrapper, or the example if it is wrong.";
  return { name: "example", place, expected: "the example to hold", found: actual, remedy };
}

/** Checks that a call fails as expected. */
export async function refusalFindings<Target>(
  place: string,
  { call, error: expected }: ExpectedRefusal<Target>,
  implementation: Target,
  timeout: number,
): Promise<readonly Finding[]> {
  let actual: string;
  try {
    actual = `the result ${formatValue(await settleWithin(() => call(implementation), timeout))}`;
  } catch (error) {
    if (error instanceof WatchdogTimeout) return [endlessFinding(place)];
    if (error instanceof expected) return [];
    actual = errorText(error);
  }
  const remedy = `Let the wrapper fail with ${expected.name} instead of swallowing the error.`;
  return [
    { name: "refusal", place, expected: `the call to fail with ${expected.name}`, found: actual, remedy },
  ];
}

/** Code of a contract's author makes several calls, each of which may take up to the timeout. */
const MANY_CALLS = 5;

/**
 * Returns the result of a function that may be asynchronous or never end.
 *
 * @throws {WatchdogTimeout} if it does not end
 */
export async function settleWithin(run: () => unknown, timeout: number): Promise<unknown> {
  const input = runWithWatchdog(run, timeout * MANY_CALLS);
  if (!isThenable(input)) return input;
  const end = await withTimeout(
    input.then((value) => ({ value })),
    timeout * MANY_CALLS,
  );
  if (!end) throw new WatchdogTimeout("no end within the timeout");
  return end.value;
}

function endlessFinding(place: string): Finding {
  const remedy = "Find the call that does not end, or raise `timeout`.";
  return { name: "unsettled", place, expected: "an end within the timeout", found: "none", remedy };
}

/** Returns the implementation, recording every error whose class is not in `allowed`. */
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
  return allowed.some((errorClass) => error instanceof errorClass);
}

export function escapedFinding(place: string, actual: string, allowed: readonly ErrorClass[]): Finding {
  return {
    name: "escaped",
    place,
    expected:
      allowed.length > 0 ? `no error except ${allowed.map(({ name }) => name).join(", ")}` : "no error",
    found: actual,
    remedy: "Translate the error in the wrapper, or list its class in the contract's errors.",
  };
}
