import { SleeveError } from "../../shared/errors.ts";
import { isThenable } from "../../shared/thenable.ts";
import { WatchdogTimeout } from "../execution/watchdog.ts";
import type { Finding } from "../finding.ts";
import { withImplementation } from "../implementation.ts";
import type { EqualityOptions, Implementation, Outcome, RecordedScenario, Scenario } from "../types.ts";
import { badContract } from "../values/arbitraries.ts";
import { deepCopy, equalValues } from "../values/equality.ts";
import { errorText, formatValue } from "../values/format.ts";
import { settleWithin } from "./examples.ts";

/** What a scenario gave, in order, and how it ended. */
interface ScenarioOutcome {
  readonly results: readonly unknown[];
  readonly isAsync: boolean;
  /** The error that ended it; `undefined` if the end is unknown or not an error. */
  readonly error?: unknown;
  readonly hasFailed: boolean;
}

interface ScenarioTerms {
  readonly equal: NonNullable<EqualityOptions["equal"]>;
  readonly timeout: number;
}

/** Maximum number of values that are compared. */
const MOST_RESULTS = 1000;

/**
 * Compares what a scenario gives with an implementation and with the reference or the recorded results. If they differ,
 * the reference runs again after the implementation: where it differs from itself, nothing is compared.
 *
 * @throws {SleeveError} `BAD_CONTRACT` if there is neither a reference nor a record
 */
export async function scenarioOutcome<Target extends object>(
  name: string,
  scenario: Scenario<Target>,
  implementation: Implementation<Target>,
  reference: Implementation<Target> | undefined,
  terms: ScenarioTerms,
): Promise<Outcome> {
  const play = (target: Implementation<Target>) =>
    withImplementation(target, (instance) => played(useOf(scenario), instance, terms.timeout));
  if (isRecord(scenario)) {
    const outcome = await play(implementation);
    const { results, fails = false } = scenario;
    return differences(
      name,
      { results, isAsync: outcome.isAsync, hasFailed: fails },
      outcome,
      "as recorded",
      terms,
    );
  }
  if (!reference)
    throw badContract(
      `The scenario "${name}" has nothing to compare with. Add a \`reference\` to the contract, or \`results\` to the scenario.`,
    );
  const before = await play(reference);
  const outcome = await play(implementation);
  const findings = differences(name, before, outcome, "as with the reference", terms);
  if (findings.length === 0) return findings;
  const after = await play(reference);
  const isRepeatable = differences(name, before, after, "", terms).length === 0;
  if (isRepeatable) return findings;
  return {
    findings: [],
    notes: [`${name}: not compared, because the reference answers differently each time.`],
  };
}

function useOf<Target>(scenario: Scenario<Target>): (implementation: Target) => unknown {
  return isRecord(scenario) ? scenario.use : scenario;
}

function isRecord<Target>(scenario: Scenario<Target>): scenario is RecordedScenario<Target> {
  return typeof scenario === "object";
}

async function played<Target>(
  use: (implementation: Target) => unknown,
  instance: Target,
  timeout: number,
): Promise<ScenarioOutcome> {
  const results: unknown[] = [];
  let isAsync = false;
  try {
    await settleWithin(() => {
      const returned = use(instance);
      isAsync = isThenable(returned) || isAsyncIterator(returned);
      return collected(returned, (value) => results.push(deepCopy(value)));
    }, timeout);
    return { results, isAsync, hasFailed: false };
  } catch (error) {
    if (error instanceof SleeveError && error.code === "BAD_CONTRACT") throw error;
    return { results, isAsync, hasFailed: true, error };
  }
}

/** Passes on what a generator yields, or the value that a function returns. */
function collected(returned: unknown, add: (value: unknown) => void): unknown {
  if (isAsyncIterator(returned)) return collectedLater(returned, add);
  if (isIterator(returned)) {
    let count = 0;
    for (const value of returned) {
      add(value);
      count += 1;
      if (count === MOST_RESULTS) break;
    }
    return undefined;
  }
  if (isThenable(returned)) return returned.then(add);
  add(returned);
  return undefined;
}

async function collectedLater(
  returned: AsyncIterable<unknown>,
  add: (value: unknown) => void,
): Promise<void> {
  let count = 0;
  for await (const value of returned) {
    add(value);
    count += 1;
    if (count === MOST_RESULTS) break;
  }
}

function isIterator(value: unknown): value is Iterable<unknown> {
  return hasIterator(value, Symbol.iterator);
}

function isAsyncIterator(value: unknown): value is AsyncIterable<unknown> {
  return hasIterator(value, Symbol.asyncIterator);
}

/** Only iterators are read: arrays, maps and the like are results. */
function hasIterator(value: unknown, key: symbol): boolean {
  return typeof value === "object" && value !== null && "next" in value && key in value;
}

function differences(
  place: string,
  expected: ScenarioOutcome,
  outcome: ScenarioOutcome,
  like: string,
  { equal }: ScenarioTerms,
): readonly Finding[] {
  const finding = (name: Finding["name"], wanted: string, actual: string): readonly Finding[] => [
    {
      name,
      place,
      expected: `${wanted}, ${like}`,
      found: actual,
      remedy: "Fix the wrapper, or the scenario if no caller needs this.",
    },
  ];
  if (outcome.error instanceof WatchdogTimeout && !(expected.error instanceof WatchdogTimeout))
    return finding("unsettled", endText(expected), "no end within the timeout");
  const isEqual =
    typeof equal === "function" ? equal : (left: unknown, right: unknown) => equalValues(left, right);
  const count = Math.min(expected.results.length, outcome.results.length);
  for (let at = 0; at < count; at += 1) {
    const [wanted, actual] = [expected.results[at], outcome.results[at]];
    if (isEqual(wanted, actual)) continue;
    const which = expected.results.length === 1 ? "" : ` as result ${at + 1}`;
    return finding("result", `${formatValue(wanted)}${which}`, `${formatValue(actual)}${which}`);
  }
  if (expected.hasFailed !== outcome.hasFailed) return finding("error", endText(expected), endText(outcome));
  if (expected.results.length !== outcome.results.length)
    return finding("result", resultsText(expected), resultsText(outcome));
  if (expected.isAsync !== outcome.isAsync)
    return finding(
      "async",
      expected.isAsync ? "a promise" : "a synchronous result",
      outcome.isAsync ? "a promise" : "a synchronous result",
    );
  return [];
}

function endText({ hasFailed, error, results }: ScenarioOutcome): string {
  if (!hasFailed) return resultsText({ results });
  return error === undefined ? "an error" : `the error ${errorText(error)}`;
}

function resultsText({ results }: Pick<ScenarioOutcome, "results">): string {
  const [result] = results;
  return results.length === 1 ? formatValue(result) : `${results.length} results`;
}
