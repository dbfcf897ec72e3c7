import type { Finding } from "../../finding.ts";
import type { Operation } from "../../sequences/operations.ts";
import type { StepOutcome } from "../../sequences/sequence-run.ts";
import { equalValues, isPlain } from "../../values/equality.ts";
import { formatValue, outcomeText } from "../../values/format.ts";
import { isObject } from "../../values/schema.ts";
import type { OperationTerms } from "./options.ts";
import type { FacadeRun, OperationRuns } from "./runs.ts";

/** Checks that an operation runs its declared steps in order. */
export function orderFindings(
  { operation, good }: OperationRuns,
  terms: OperationTerms | undefined,
): readonly Finding[] {
  const steps = terms?.steps;
  if (!steps) return [];
  const instance = good.calls.filter((call) => steps.includes(call));
  if (equalValues(instance, [...steps])) return [];
  return [
    finding(
      "step",
      operation,
      `the steps ${steps.join(", ")}`,
      listText(instance),
      "Run the steps in this order, each once.",
    ),
  ];
}

/** Checks that an operation stops and fails when a step fails. */
export function stopFindings(
  { operation, good, bad }: OperationRuns,
  terms: OperationTerms | undefined,
): readonly Finding[] {
  const undoing = new Set(Object.values(terms?.undo ?? {}));
  return bad.flatMap(({ outcome, calls, failing: at, begun }): Finding[] => {
    const step = calls[at];
    const forward = new Set(good.calls.slice(begun));
    for (const done of good.calls.slice(0, begun)) forward.delete(done);
    const further = calls.slice(begun).find((call) => forward.has(call) && !undoing.has(call));
    if (further) {
      const remedy = "Stop at the first step that fails.";
      return [
        finding("step", operation, `no further step after ${step} failed`, `a call of ${further}`, remedy),
      ];
    }
    if (outcome.status === "unsettled")
      return [
        finding(
          "unsettled",
          operation,
          `a failure after ${step} failed`,
          "none",
          "Let the failure reach the client.",
        ),
      ];
    return successFinding(operation, `${step} failed`, outcome, good.outcome);
  });
}

/** Checks that completed steps are undone in reverse. */
export function undoFindings(
  { operation, good, bad }: OperationRuns,
  terms: OperationTerms | undefined,
): readonly Finding[] {
  const declared = terms?.undo;
  const undone = bad.map(({ calls, begun }) => calls.slice(begun));
  if (declared) {
    return bad.flatMap((run): Finding[] => {
      const { calls, failing: at, begun } = run;
      const declaredUndo = new Set(Object.values(declared));
      const expected = calls
        .slice(0, begun)
        .filter((_, index) => index !== at)
        .reverse()
        .flatMap((call) => declared[call] ?? []);
      const instance = calls.slice(begun).filter((call) => declaredUndo.has(call));
      if (isUndone(instance, expected, (one, candidate) => isTogether(good, one, candidate, declared)))
        return wrongUndoing(run, declared, operation);
      return [
        finding(
          "undo",
          operation,
          `${listText(expected)} after ${calls[at]} failed`,
          listText(instance),
          "Undo completed steps in reverse order, each once.",
        ),
      ];
    });
  }
  // The undoing after a later failure ends with the undoing after an earlier one. For steps that start
  // together, the order is not defined.
  if (bad.some(({ failing: at, begun }) => begun > at + 1)) return [];
  for (let at = 1; at < undone.length; at += 1) {
    const [before, after] = [undone[at - 1] ?? [], undone[at] ?? []];
    if (equalValues(after.slice(Math.max(0, after.length - before.length)), before)) continue;
    return [
      finding(
        "undo",
        operation,
        `${listText(before)} undone last after ${good.calls[bad[at]?.failing ?? at]} failed`,
        listText(after),
        "Undo completed steps in reverse order, each once.",
      ),
    ];
  }
  return [];
}

/** Checks that an operation fails, and undoes the other steps, when undoing a step fails. */
export function undoFailureFindings(
  { operation, good, worse }: OperationRuns,
  terms: OperationTerms | undefined,
): readonly Finding[] {
  const declared = terms?.undo;
  return worse.flatMap(({ run, before, undoing }): Finding[] => {
    const failed = `${before.calls[before.failing]} and then ${undoing} failed`;
    if (run.outcome.status === "unsettled")
      return [
        finding(
          "unsettled",
          operation,
          `a failure after ${failed}`,
          "none",
          "Let the failure reach the client.",
        ),
      ];
    const success = successFinding(operation, failed, run.outcome, good.outcome);
    if (success.length > 0 || !declared) return success;
    const declaredUndo = new Set(Object.values(declared));
    const [expected, instance] = [before, run].map(({ calls, begun }) =>
      calls.slice(begun).filter((call) => declaredUndo.has(call)),
    ) as [string[], string[]];
    const missing = expected.find((call) => !instance.includes(call));
    if (missing === undefined) return [];
    return [
      finding(
        "undo",
        operation,
        `${missing} after ${failed}`,
        listText(instance),
        "Undo the other steps even if undoing one fails.",
      ),
    ];
  });
}

/** Checks that no subsystem calls the facade. */
export function reentryFindings(
  { operation, good }: OperationRuns,
  _terms: OperationTerms | undefined,
): readonly Finding[] {
  return good.called
    .slice(0, 1)
    .map((member) =>
      finding(
        "reentry",
        operation,
        "no call of the facade by a subsystem",
        `a call of its ${member}`,
        "Let subsystems return results or call callbacks; a subsystem must not call its facade.",
      ),
    );
}

/** Whether two calls that undo steps may be made in any order, because their steps ran together. */
function isTogether(
  { calls, details }: FacadeRun,
  one: string,
  laterStep: string,
  undo: Readonly<Record<string, string>>,
): boolean {
  const stepOf = (undoing: string) => calls.findIndex((call) => undo[call] === undoing);
  const [earlier, second] = [stepOf(one), stepOf(laterStep)].sort((left, right) => left - right) as [
    number,
    number,
  ];
  return earlier >= 0 && (details[earlier]?.settledAt ?? 0) > second;
}

/** Whether calls were made in the expected order, except for those that may be made in any order. */
function isUndone(
  instance: readonly string[],
  expected: readonly string[],
  isFree: (one: string, other: string) => boolean,
): boolean {
  if (!equalValues([...instance].sort(), [...expected].sort())) return false;
  return instance.every((call, at) =>
    instance
      .slice(at + 1)
      .every((after) => expected.indexOf(call) <= expected.indexOf(after) || isFree(call, after)),
  );
}

/** A finding if a failed operation answers as a successful one, completely or in part. */
function successFinding(
  operation: Operation,
  failed: string,
  outcome: StepOutcome,
  good: StepOutcome,
): Finding[] {
  if (outcome.status !== "returned" && outcome.status !== "resolved") return [];
  const isSame = equalValues(outcome.value, good.value);
  if (!isSame && !isPartOf(outcome.value, good.value)) return [];
  return [
    finding(
      "error",
      operation,
      `a failure after ${failed}`,
      `${outcomeText(outcome)}, ${isSame ? "as for" : "a part of the result of"} a success`,
      "Fail, or return a refusal; the client takes this result for success.",
    ),
  ];
}

/** Whether a value is a result with some of its fields or items missing, and nothing else. */
function isPartOf(value: unknown, match: unknown): boolean {
  if (!isObject(value) || !isObject(match)) return false;
  if (Array.isArray(value) && Array.isArray(match))
    return (
      value.length > 0 &&
      value.length < match.length &&
      value.every((item) => match.some((one) => equalValues(one, item)))
    );
  if (!isPlain(value) || !isPlain(match)) return false;
  const fields = Object.entries(value).filter(([, field]) => !isEmpty(field));
  return (
    fields.some(([, field]) => typeof field !== "boolean") &&
    fields.every(([name, field]) => equalValues(field, Reflect.get(match, name)))
  );
}

function isEmpty(value: unknown): boolean {
  return value === undefined || value === null || (Array.isArray(value) && value.length === 0);
}

/** An undoing call that receives neither a result nor an argument of its step, nor a part of one, undoes something else. */
function wrongUndoing(
  { calls, details, begun }: FacadeRun,
  undo: Readonly<Record<string, string>>,
  operation: Operation,
): Finding[] {
  for (const [step, undoing] of Object.entries(undo)) {
    const done = details[calls.slice(0, begun).lastIndexOf(step)];
    const undone = calls.indexOf(undoing, begun);
    const args = undone < 0 ? [] : (details[undone]?.args ?? []);
    if (!done || args.length === 0) continue;
    const availableValues = [done.result, ...done.args].flatMap((value) => [
      value,
      ...(isObject(value) ? Object.values(value) : []),
    ]);
    if (args.some((argument) => availableValues.some((value) => equalValues(value, argument)))) continue;
    const remedy = `Pass ${undoing} the result of ${step}.`;
    const expected = `${undoing} with ${formatValue(done.result)}, the result of ${step}`;
    return [finding("undo", operation, expected, `${undoing} with ${formatValue(args)}`, remedy)];
  }
  return [];
}

function listText(calls: readonly string[]): string {
  return calls.length === 0 ? "nothing" : calls.join(", ");
}

function finding(
  name: Finding["name"],
  { label }: Operation,
  expected: string,
  actual: string,
  remedy: string,
): Finding {
  return { name, place: label, expected, found: actual, remedy };
}
