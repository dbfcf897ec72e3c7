import type { Context } from "../context.ts";
import type { Finding } from "../finding.ts";
import { lend } from "../implementation.ts";
import { macrotask, type PlayTerms } from "../play.ts";
import { spyOn } from "../spy.ts";
import { callOf, reachedBy, type Trial, trialsOf, variantOf, type Wrapping, withSpied } from "./trial.ts";

/** Whether calls that overlap reach the subject in the order in which they were made, and end in the order in which it ends them. */
export async function orderFindings(
  wrapping: Wrapping,
  context: Context<object>,
): Promise<readonly Finding[]> {
  const trials = (await trialsOf(wrapping, context)).filter(({ hint }) => hint.status === "resolved");
  const findings: Finding[] = [];
  for (const operation of new Set(trials.map((each) => each.operation))) {
    const [one, second] = trials.filter((each) => each.operation === operation && each.args.length > 0);
    const other = second ?? (one && { ...one, args: one.args.with(0, variantOf(one.args[0])) });
    // The same call twice may well be made once, and says nothing of order.
    if (!one || !other || one.args[0] === other.args[0]) continue;
    const finding = await overlapping(wrapping, one, other, context);
    if (finding) findings.push(finding);
  }
  return findings;
}

function overlapping(
  wrapping: Wrapping,
  one: Trial,
  other: Trial,
  terms: PlayTerms,
): Promise<Finding | undefined> {
  const { operation } = one;
  const finding = (expected: string, found: string): Finding => ({
    name: "order",
    place: operation.label,
    expected,
    found,
    remedy: "Pass each call on when it comes; a wrapper that makes them wait says so, and waives `order`.",
  });
  return withSpied(wrapping, async (wrapper, spy) => {
    const settles: (() => void)[] = [];
    spy.script = ({ key }, real) =>
      key === operation.key ? new Promise((resolve) => settles.push(() => resolve(one.hint.raw))) : real();
    const first = callOf(wrapper, operation, one.args, terms);
    const second = callOf(wrapper, operation, other.args, terms);
    await macrotask();
    const reached = reachedBy(spy, operation);
    if (reached.length === 0) return undefined;
    const release = () => {
      for (const each of settles) each();
    };
    if (reached.length === 1) {
      release();
      await Promise.all([first.outcome, second.outcome]);
      return finding("two calls under way at once", "the second to wait for the first");
    }
    if (reached[0]?.args[0] === other.args[0] && reached[0]?.args[0] !== one.args[0]) {
      release();
      return finding("the calls in the order in which they were made", "the second before the first");
    }
    settles[1]?.();
    await macrotask();
    const isLate = !second.isSettled();
    release();
    await Promise.all([first.outcome, second.outcome]);
    return isLate
      ? finding(
          "the answers in the order in which the subject gives them",
          "an answer held back for an earlier call",
        )
      : undefined;
  });
}

/** Whether each wrapper keeps to the subject that it was made for. */
export async function sharedFindings(
  { subject, wrap, release }: Wrapping,
  context: Context<object>,
): Promise<readonly Finding[]> {
  const trials = await trialsOf({ subject, wrap, release }, context);
  return lend(subject, (one) =>
    lend(subject, async (other): Promise<readonly Finding[]> => {
      if (one === other) return [];
      const [first, second] = [spyOn(one), spyOn(other)];
      const wrappers = [await wrap(first.subject), await wrap(second.subject)] as const;
      const findings: Finding[] = [];
      const good = trials.filter(({ hint }) => hint.status === "returned" || hint.status === "resolved");
      for (const operation of new Set(good.map((each) => each.operation))) {
        const args = good.find((each) => each.operation === operation)?.args ?? [];
        first.reached.length = 0;
        second.reached.length = 0;
        await callOf(wrappers[0], operation, args, context).outcome;
        const isAstray = second.reached.length > 0;
        const answered = await callOf(wrappers[1], operation, args, context).outcome;
        const isAnswer = answered.status === "returned" || answered.status === "resolved";
        // The first call of a wrapper has nothing but its subject to be answered from.
        if (!isAstray && (first.reached.length === 0 || second.reached.length > 0 || !isAnswer)) continue;
        findings.push({
          name: "shared",
          place: operation.label,
          expected: "a call that reaches the subject that its wrapper was made for",
          found: isAstray
            ? "a call that reached that of another wrapper"
            : "an answer kept by another wrapper",
          remedy: "Keep the subject, and what it answered, in the wrapper and not in the module.",
        });
        break;
      }
      first.end();
      second.end();
      for (const wrapper of wrappers) await release?.(wrapper);
      return findings;
    }),
  );
}
