import type { Finding } from "../finding.ts";
import { withImplementation } from "../implementation.ts";
import { macrotask, type PlayTerms } from "../sequences/sequence-run.ts";
import type { Context } from "../types.ts";
import { callOf, type Probe, probesOf, reachedBy, variantOf, type Wrapping, withSpied } from "./probe.ts";
import { spyOn } from "./spy.ts";

/**
 * Checks that overlapping calls reach the subject in the order they were made, and end in the order in which
 * it ends them.
 */
export async function orderFindings(
  wrapping: Wrapping,
  context: Context<object>,
): Promise<readonly Finding[]> {
  const probes = (await probesOf(wrapping, context)).filter(({ hint }) => hint.status === "resolved");
  const findings: Finding[] = [];
  for (const operation of new Set(probes.map((probe) => probe.operation))) {
    const [firstCall, second] = probes.filter(
      (probe) => probe.operation === operation && probe.args.length > 0,
    );
    const secondCall =
      second ?? (firstCall && { ...firstCall, args: firstCall.args.with(0, variantOf(firstCall.args[0])) });
    // Two equal calls may be merged, so they say nothing about order.
    if (!firstCall || !secondCall || firstCall.args[0] === secondCall.args[0]) continue;
    const finding = await overlapping(wrapping, firstCall, secondCall, context);
    if (finding) findings.push(finding);
  }
  return findings;
}

function overlapping(
  wrapping: Wrapping,
  firstCall: Probe,
  secondCall: Probe,
  terms: PlayTerms,
): Promise<Finding | undefined> {
  const { operation } = firstCall;
  const finding = (expected: string, actual: string): Finding => ({
    name: "order",
    place: operation.label,
    expected,
    found: actual,
    remedy: "Pass each call on immediately; a wrapper that queues calls suppresses `order`.",
  });
  return withSpied(wrapping, async (wrapper, spy) => {
    const settles: (() => void)[] = [];
    spy.script = ({ key }, real) =>
      key === operation.key
        ? new Promise((resolve) => settles.push(() => resolve(firstCall.hint.raw)))
        : real();
    const first = callOf(wrapper, operation, firstCall.args, terms);
    const second = callOf(wrapper, operation, secondCall.args, terms);
    await macrotask();
    const reached = reachedBy(spy, operation);
    if (reached.length === 0) return undefined;
    const release = () => {
      for (const settle of settles) settle();
    };
    if (reached.length === 1) {
      release();
      await Promise.all([first.outcome, second.outcome]);
      return finding("two calls in flight at once", "the second call waiting for the first");
    }
    if (reached[0]?.args[0] === secondCall.args[0] && reached[0]?.args[0] !== firstCall.args[0]) {
      release();
      return finding("the calls in the order in which they were made", "the second call before the first");
    }
    settles[1]?.();
    await macrotask();
    const isLate = !second.isSettled();
    release();
    await Promise.all([first.outcome, second.outcome]);
    return isLate
      ? finding("the results in the order of the subject's results", "a result held back for an earlier call")
      : undefined;
  });
}

/** Checks that each wrapper uses the subject that it was created for. */
export async function sharedFindings(
  { subject, wrap, release }: Wrapping,
  context: Context<object>,
): Promise<readonly Finding[]> {
  const probes = await probesOf({ subject, wrap, release }, context);
  return withImplementation(subject, (firstCall) =>
    withImplementation(subject, async (otherSubject): Promise<readonly Finding[]> => {
      if (firstCall === otherSubject) return [];
      const [firstSpy, second] = [spyOn(firstCall), spyOn(otherSubject)];
      const wrappers = [await wrap(firstSpy.subject), await wrap(second.subject)] as const;
      const findings: Finding[] = [];
      const good = probes.filter(({ hint }) => hint.status === "returned" || hint.status === "resolved");
      for (const operation of new Set(good.map((probe) => probe.operation))) {
        const args = good.find((probe) => probe.operation === operation)?.args ?? [];
        firstSpy.calls.length = 0;
        second.calls.length = 0;
        await callOf(wrappers[0], operation, args, context).outcome;
        const isAstray = second.calls.length > 0;
        const answered = await callOf(wrappers[1], operation, args, context).outcome;
        const isAnswer = answered.status === "returned" || answered.status === "resolved";
        // The first call of a wrapper can be answered only by its own subject.
        if (!isAstray && (firstSpy.calls.length === 0 || second.calls.length > 0 || !isAnswer)) continue;
        findings.push({
          name: "shared",
          place: operation.label,
          expected: "a call that reaches the wrapper's own subject",
          found: isAstray
            ? "a call that reached another wrapper's subject"
            : "a result cached by another wrapper",
          remedy: "Keep the subject and its results in the wrapper, not in the module.",
        });
        break;
      }
      firstSpy.end();
      second.end();
      for (const wrapper of wrappers) await release?.(wrapper);
      return findings;
    }),
  );
}
