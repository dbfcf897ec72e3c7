import type { Context } from "../context.ts";
import type { Finding } from "../finding.ts";
import type { Operation } from "../operations.ts";
import { type PlayTerms, SELF, type Seen } from "../play.ts";
import { seenText, shown } from "../text.ts";
import {
  isReadAway,
  isSameValue,
  type Scripted,
  THIS,
  type Trial,
  type Tried,
  trialsOf,
  tried,
  variantOf,
  type Wrapping,
} from "./trial.ts";

/** What was found of how a wrapper passes calls, and what could not be told. */
export interface Passing {
  readonly findings: readonly Finding[];
  readonly notes: readonly string[];
}

/**
 * Whether a wrapper passes arguments, results and errors on as they are, calls through once and in time, and gives itself
 * back where its subject gives itself. The subject is made to answer what nobody but it could, so that an answer that comes
 * from elsewhere is told apart.
 */
export async function passingFindings(wrapping: Wrapping, context: Context<object>): Promise<Passing> {
  const findings: Finding[] = [];
  const notes: string[] = [];
  const trials = await trialsOf(wrapping, context);
  for (const operation of new Set(trials.map((each) => each.operation))) {
    const own = trials.filter((each) => each.operation === operation);
    const judged = await judgedTrials(wrapping, own, operation, context);
    const [first] = judged.findings;
    // What is wrong with a member mostly shows in each of its trials.
    findings.push(...uniqueByName(judged.findings));
    if (!first && !judged.hasReached) {
      notes.push(
        `${operation.label} was never let through to its subject with the arguments that were tried. Give it \`arguments\` in the contract.`,
      );
    }
  }
  return { findings, notes };
}

async function judgedTrials(
  wrapping: Wrapping,
  trials: readonly Trial[],
  operation: Operation,
  terms: PlayTerms,
): Promise<{ findings: readonly Finding[]; hasReached: boolean }> {
  const findings: Finding[] = [];
  const notReached: Finding[] = [];
  let hasReached = false;
  let passed = 0;
  const known = trials.find(({ hint }) => hint.status === "returned" || hint.status === "resolved")?.hint;
  for (const trial of trials) {
    let isPassed = false;
    for (const script of scriptsFor(trial.hint, known, passed)) {
      const result = await tried(wrapping, trial, script, terms);
      const reached = result.reached.length;
      if (result.outcome.status === "unsettled" && reached === 0)
        return { findings: [endlessFinding(operation)], hasReached };
      if (reached === 0) {
        const finding = notReachedFinding(operation, result.outcome);
        if (finding) notReached.push(finding);
        continue;
      }
      hasReached = true;
      isPassed = true;
      findings.push(...judged(trial, script, result));
    }
    if (findings.length > 0) break;
    if (isPassed) passed += 1;
  }
  return { findings: hasReached ? findings : notReached.slice(0, 1), hasReached };
}

/** What the subject is made to do: answer something of its own, give itself back where it does, and fail. */
function scriptsFor(hint: Seen, known: Seen | undefined, passed: number): readonly Scripted[] {
  const like = hint.status === "returned" || hint.status === "resolved" ? hint : known;
  const isLater = hint.status === "resolved" || hint.status === "rejected" || known?.status === "resolved";
  if (hint.status === "unsettled") return [];
  const gives: Scripted[] =
    like === undefined
      ? []
      : like.value === SELF
        ? [{ gives: THIS, isLater: like.status === "resolved" }]
        : [{ gives: variantOf(like.raw), isLater: like.status === "resolved" }];
  const error = new Error("the subject failed");
  // How failures are passed on hardly hangs on the arguments.
  const fails: Scripted[] = passed < 2 ? [{ fails: error, isLater }] : [];
  if (passed === 0) fails.push({ fails: Symbol("no error"), isLater });
  return [...gives, ...fails];
}

function endlessFinding({ label }: Operation): Finding {
  const remedy = `Find what ${label} waits for.`;
  return { name: "unsettled", place: label, expected: "an end within the deadline", found: "none", remedy };
}

/** A call that did not reach the subject: wrong where the wrapper answers by itself, unproven where it fails. */
function notReachedFinding({ label }: Operation, outcome: Seen): Finding | undefined {
  if (outcome.status === "threw" || outcome.status === "rejected") return undefined;
  return {
    name: "calls",
    place: label,
    expected: "one call of the subject",
    found: `none, and ${seenText(outcome)}`,
    remedy: `Call the subject's ${label} once for each call of the wrapper's.`,
  };
}

function judged({ operation, args }: Trial, does: Scripted, result: Tried): readonly Finding[] {
  const { reached: calls, reachedAtOnce, isEarly } = result;
  const { label, key } = operation;
  const [call] = calls;
  const finding = (name: Finding["name"], expected: string, found: string, remedy: string): Finding[] => [
    { name, place: label, expected, found, remedy },
  ];
  if (result.isMutated)
    return finding(
      "mutated",
      "the arguments as they were",
      "an argument that was changed",
      "Work on a copy.",
    );
  if (calls.length > 1)
    return finding("calls", "one call of the subject", `${calls.length} calls`, "Call the subject once.");
  if (call && key !== undefined && !isReceiver(call.receiver, result))
    return finding(
      "receiver",
      "the method to be called on its subject",
      `a call on ${call.receiver === undefined ? "nothing" : shown(call.receiver)}`,
      `Call it as subject.${label}(...): what is taken off an object loses it.`,
    );
  const sent = withoutUndefined(args);
  const came = withoutUndefined(call?.args ?? []);
  if (sent.length !== came.length || sent.some((each, index) => !isSameValue(each, came[index])))
    return finding(
      "argument",
      `the arguments ${shown(sent)}`,
      argumentsText(sent, came),
      "Pass the arguments on as they are.",
    );
  if (!does.isLater && reachedAtOnce === 0)
    return finding(
      "order",
      "the subject to be called before the wrapper returns",
      "a call that is put off",
      "Call the subject at once.",
    );
  return isEarly && result.outcome.status !== "returned"
    ? finding(
        "order",
        "a promise that settles when the subject's has",
        "one that settles before it",
        `Wait for the subject's ${label}, or give its promise back.`,
      )
    : outcomeFindings(does, result, finding);
}

/** The subject itself, or what passes its receiver on as a transparent proxy does. */
function isReceiver(receiver: unknown, { subject, wrapper }: Tried): boolean {
  return (
    receiver === subject ||
    receiver === wrapper ||
    Object.prototype.isPrototypeOf.call(subject, receiver as object)
  );
}

function outcomeFindings(
  does: Scripted,
  { subject, outcome, wrapper }: Tried,
  finding: (name: Finding["name"], expected: string, found: string, remedy: string) => Finding[],
): readonly Finding[] {
  const { status, raw } = outcome;
  const failed = status === "threw" || status === "rejected";
  if (status === "unsettled") return finding("unsettled", "an end", "none", "Settle when the subject does.");
  if ("fails" in does) {
    const told = `the subject's own ${does.fails instanceof Error ? "error" : "failure, which is no error"}`;
    if (!failed) return finding("error", told, seenText(outcome), "Let the subject's errors through.");
    if ((status === "rejected") !== does.isLater)
      return finding(
        "async",
        does.isLater ? "a rejected promise" : "an error thrown at once",
        seenText(outcome),
        "Fail as the subject does.",
      );
    return raw === does.fails
      ? []
      : finding(
          "error",
          told,
          `another: ${seenText(outcome)}`,
          "Let the error through as it is; whoever needs to may tell it by its identity.",
        );
  }
  if (failed)
    return finding("error", "the subject's answer", seenText(outcome), "Give the answer of the subject.");
  if ((status === "resolved") !== does.isLater)
    return finding(
      "async",
      does.isLater ? "a promise" : "an answer at once",
      seenText(outcome),
      "A wrapper waits where its subject does, and nowhere else.",
    );
  if (does.gives === THIS) {
    if (raw === wrapper) return [];
    const isLeak = raw === subject;
    return finding(
      isLeak ? "leak" : "fluent",
      "the wrapper itself, as the subject gives itself",
      isLeak ? "the subject" : seenText(outcome),
      "Give back the wrapper, so that the next call of a chain goes through it too.",
    );
  }
  if (isReadAway(does.gives, raw))
    return finding(
      "result",
      "an iterator with all that the subject lets read",
      "one that was read already, or of something else",
      "Give the iterator on without reading it, or make another of what was read.",
    );
  if (isSameValue(does.gives, raw)) return [];
  const isPromiseLost = does.gives !== undefined && raw === undefined;
  return finding(
    "result",
    `the subject's answer ${shown(does.gives)}`,
    isPromiseLost ? "nothing" : anotherText(does.gives, raw, outcome),
    "Give the subject's answer back as it is.",
  );
}

function anotherText(sent: unknown, came: unknown, outcome: Seen): string {
  return shown(sent) === shown(came) ? "a copy of it" : seenText(outcome);
}

function argumentsText(sent: readonly unknown[], came: readonly unknown[]): string {
  if (sent.length === came.length) {
    if (sent.every((each) => came.some((other) => isSameValue(each, other))))
      return `them in another order: ${shown(came)}`;
    if (shown(sent) === shown(came)) return "copies of them";
  }
  return came.length < sent.length ? `${came.length} of ${sent.length}: ${shown(came)}` : shown(came);
}

/** Whether the last arguments are left out or `undefined` is all the same to who is called. */
function withoutUndefined(args: readonly unknown[]): readonly unknown[] {
  let length = args.length;
  while (length > 0 && args[length - 1] === undefined) length -= 1;
  return args.slice(0, length);
}

function uniqueByName(findings: readonly Finding[]): readonly Finding[] {
  return findings.filter(({ name }, index) => findings.findIndex((each) => each.name === name) === index);
}
