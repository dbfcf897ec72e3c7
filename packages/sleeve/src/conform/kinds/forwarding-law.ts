import { originalOf } from "../../forward/copied-value.ts";
import type { Finding } from "../finding.ts";
import type { Operation } from "../sequences/operations.ts";
import { type PlayTerms, SELF, type StepOutcome } from "../sequences/sequence-run.ts";
import type { Context } from "../types.ts";
import { formatValue, outcomeText } from "../values/format.ts";
import {
  isReadAway,
  isSameValue,
  type Probe,
  type ProbeResult,
  probesOf,
  runProbe,
  type Scripted,
  THIS,
  variantOf,
  type Wrapping,
  withoutUndefined,
} from "./probe.ts";
import { probeCode } from "./probe-code.ts";

/** Findings about forwarding, and what could not be checked. */
export interface ForwardingResult {
  readonly findings: readonly Finding[];
  readonly notes: readonly string[];
}

/**
 * Checks that a wrapper passes arguments, results and errors unchanged, calls its subject once and in time,
 * and returns itself where its subject does. The subject returns values that only it could, so that results
 * of other origin are detected.
 */
export async function forwardingFindings(
  wrapping: Wrapping,
  context: Context<object>,
): Promise<ForwardingResult> {
  const findings: Finding[] = [];
  const notes: string[] = [];
  const probes = await probesOf(wrapping, context);
  for (const operation of new Set(probes.map((probe) => probe.operation))) {
    const ownProbes = probes.filter((probe) => probe.operation === operation);
    const judged = await evaluateProbes(wrapping, ownProbes, operation, context);
    const [firstFinding] = judged.findings;
    // A faulty member mostly fails every probe.
    findings.push(...uniqueByName(judged.findings));
    if (!firstFinding && !judged.hasReached) {
      notes.push(
        `${operation.label} never reached its subject with the generated arguments. Set \`arguments\` in the contract.`,
      );
    }
  }
  return { findings, notes };
}

async function evaluateProbes(
  wrapping: Wrapping,
  probes: readonly Probe[],
  operation: Operation,
  terms: PlayTerms,
): Promise<{ findings: readonly Finding[]; hasReached: boolean }> {
  const findings: Finding[] = [];
  const notReached: Finding[] = [];
  let hasReached = false;
  let passedValues = 0;
  const successful = probes.find(
    ({ hint }) => hint.status === "returned" || hint.status === "resolved",
  )?.hint;
  for (const probe of probes) {
    let isPassed = false;
    for (const script of scriptsFor(probe.hint, successful, passedValues)) {
      const result = await runProbe(wrapping, probe, script, terms);
      const reached = result.reached.length;
      if (result.outcome.status === "unsettled" && reached === 0)
        return { findings: [endlessFinding(operation)], hasReached };
      if (reached === 0) {
        const finding = notReachedFinding(operation, result.outcome);
        if (finding) notReached.push(described(finding, probe, script, result));
        continue;
      }
      hasReached = true;
      isPassed = true;
      findings.push(
        ...evaluate(probe, script, result).map((finding) => described(finding, probe, script, result)),
      );
    }
    if (findings.length > 0) break;
    if (isPassed) passedValues += 1;
  }
  return { findings: hasReached ? findings : notReached.slice(0, 1), hasReached };
}

/** Returns a finding with the arguments that were sent, and with code. */
function described(finding: Finding, probe: Probe, script: Scripted, result: ProbeResult): Finding {
  const { args, operation } = probe;
  const code = probeCode(finding.name, probe, script, result);
  // A finding about arguments names them already.
  const found =
    finding.name === "argument" || args.length === 0
      ? finding.found
      : `${finding.found}; ${operation.label} was called with ${args.map(formatValue).join(", ")}`;
  return { ...finding, found, ...(code !== undefined && { code }) };
}

/** What the subject is made to do: return a value of its own, return itself where it does, and fail. */
function scriptsFor(
  hint: StepOutcome,
  successful: StepOutcome | undefined,
  passedValues: number,
): readonly Scripted[] {
  const like = hint.status === "returned" || hint.status === "resolved" ? hint : successful;
  const isLater =
    hint.status === "resolved" || hint.status === "rejected" || successful?.status === "resolved";
  if (hint.status === "unsettled") return [];
  const gives: Scripted[] =
    like === undefined
      ? []
      : [
          {
            gives: like.value === SELF ? THIS : variantOf(like.raw),
            isLater: like.status === "resolved",
          },
        ];
  const error = new Error("the subject failed");
  // Forwarding of failures rarely depends on the arguments.
  const fails: Scripted[] = passedValues < 2 ? [{ fails: error, isLater }] : [];
  if (passedValues === 0) fails.push({ fails: Symbol("no error"), isLater });
  return [...gives, ...fails];
}

function endlessFinding({ label }: Operation): Finding {
  const remedy = `Find what ${label} waits for.`;
  return { name: "unsettled", place: label, expected: "an end within the timeout", found: "none", remedy };
}

/** A call that did not reach the subject: a finding if the wrapper answers it, unproven if it fails. */
function notReachedFinding({ label }: Operation, outcome: StepOutcome): Finding | undefined {
  if (outcome.status === "threw" || outcome.status === "rejected") return undefined;
  return {
    name: "calls",
    place: label,
    expected: "one call of the subject",
    found: `none, and ${outcomeText(outcome)}`,
    remedy: `Call the subject's ${label} once for each call of the wrapper.`,
  };
}

function evaluate({ operation, args }: Probe, does: Scripted, result: ProbeResult): readonly Finding[] {
  const { reached: calls, reachedAtOnce, isEarly } = result;
  const { label, key } = operation;
  const [call] = calls;
  const finding = (name: Finding["name"], expected: string, actual: string, remedy: string): Finding[] => [
    { name, place: label, expected, found: actual, remedy },
  ];
  if (result.isMutated)
    return finding("mutated", "the arguments unchanged", "an argument that was changed", "Work on a copy.");
  if (calls.length > 1)
    return finding("calls", "one call of the subject", `${calls.length} calls`, "Call the subject once.");
  if (call && key !== undefined && !isReceiver(call.receiver, result))
    return finding(
      "receiver",
      "the method to be called on its subject",
      `a call on ${call.receiver === undefined ? "nothing" : formatValue(call.receiver)}`,
      `Call it as subject.${label}(...); an extracted method loses its subject.`,
    );
  const sent = withoutUndefined(args);
  const came = withoutUndefined(call?.args ?? []);
  if (sent.length !== came.length || sent.some((argument, index) => !isSameValue(argument, came[index])))
    return finding(
      "argument",
      `the arguments ${formatValue(sent)}`,
      argumentsText(sent, came),
      "Pass the arguments on unchanged.",
    );
  if (!does.isLater && reachedAtOnce === 0)
    return finding(
      "order",
      "the subject to be called before the wrapper returns",
      "a deferred call",
      "Call the subject synchronously.",
    );
  return isEarly && result.outcome.status !== "returned"
    ? finding(
        "order",
        "a promise that settles after the subject's",
        "one that settles before it",
        `Await the subject's ${label}, or return its promise.`,
      )
    : outcomeFindings(does, result, finding);
}

/** The subject itself, or an object that passes the receiver on, as a transparent proxy does. */
function isReceiver(receiver: unknown, { subject, wrapper }: ProbeResult): boolean {
  return (
    receiver === subject ||
    receiver === wrapper ||
    Object.prototype.isPrototypeOf.call(subject, receiver as object)
  );
}

type CreateFindings = (name: Finding["name"], expected: string, found: string, remedy: string) => Finding[];

function outcomeFindings(does: Scripted, result: ProbeResult, finding: CreateFindings): readonly Finding[] {
  const { outcome } = result;
  if (outcome.status === "unsettled")
    return finding("unsettled", "an end", "none", "Settle when the subject does.");
  if ("fails" in does) return failureFindings(does, outcome, finding);
  if (outcome.status === "threw" || outcome.status === "rejected")
    return finding("error", "the subject's result", outcomeText(outcome), "Return the subject's result.");
  if ((outcome.status === "resolved") !== does.isLater)
    return finding(
      "async",
      does.isLater ? "a promise" : "a synchronous result",
      outcomeText(outcome),
      "Await only what the subject makes asynchronous.",
    );
  return does.gives === THIS ? fluentFindings(result, finding) : valueFindings(does.gives, outcome, finding);
}

function failureFindings(
  does: Extract<Scripted, { readonly fails: unknown }>,
  outcome: ProbeResult["outcome"],
  finding: CreateFindings,
): readonly Finding[] {
  const { status, raw } = outcome;
  const expected = `the subject's own ${does.fails instanceof Error ? "error" : "failure, which is not an error"}`;
  if (status !== "threw" && status !== "rejected")
    return finding("error", expected, outcomeText(outcome), "Let the subject's errors through.");
  if ((status === "rejected") !== does.isLater)
    return finding(
      "async",
      does.isLater ? "a rejected promise" : "an error thrown synchronously",
      outcomeText(outcome),
      "Fail as the subject does.",
    );
  // An access check passes a copy of an error, which is not another one.
  if (originalOf(raw) === does.fails) return [];
  return finding(
    "error",
    expected,
    `another: ${outcomeText(outcome)}`,
    "Let the error through unchanged; callers may compare it by identity.",
  );
}

function fluentFindings(
  { subject, outcome, wrapper }: ProbeResult,
  finding: CreateFindings,
): readonly Finding[] {
  if (outcome.raw === wrapper) return [];
  const isLeak = outcome.raw === subject;
  return finding(
    isLeak ? "leak" : "fluent",
    "the wrapper itself, as the subject returns itself",
    isLeak ? "the subject" : outcomeText(outcome),
    "Return the wrapper, so that the next call of a chain goes through it too.",
  );
}

function valueFindings(
  gives: unknown,
  outcome: ProbeResult["outcome"],
  finding: CreateFindings,
): readonly Finding[] {
  const { raw } = outcome;
  if (isReadAway(gives, raw))
    return finding(
      "result",
      "an iterator with all items of the subject's",
      "one that was consumed, or has other items",
      "Return the iterator without consuming it, or create another one from the items.",
    );
  if (isSameValue(gives, raw)) return [];
  const isPromiseLost = gives !== undefined && raw === undefined;
  return finding(
    "result",
    `the subject's result ${formatValue(gives)}`,
    isPromiseLost ? "nothing" : anotherText(gives, raw, outcome),
    "Return the subject's result unchanged.",
  );
}

function anotherText(sent: unknown, came: unknown, outcome: StepOutcome): string {
  return formatValue(sent) === formatValue(came) ? "a copy of it" : outcomeText(outcome);
}

function argumentsText(sent: readonly unknown[], came: readonly unknown[]): string {
  if (sent.length === came.length) {
    if (sent.every((argument) => came.some((candidate) => isSameValue(argument, candidate))))
      return `them in another order: ${formatValue(came)}`;
    if (formatValue(sent) === formatValue(came)) return "copies of them";
  }
  return came.length < sent.length
    ? `${came.length} of ${sent.length}: ${formatValue(came)}`
    : formatValue(came);
}

function uniqueByName(findings: readonly Finding[]): readonly Finding[] {
  return findings.filter(
    ({ name }, index) => findings.findIndex((finding) => finding.name === name) === index,
  );
}
