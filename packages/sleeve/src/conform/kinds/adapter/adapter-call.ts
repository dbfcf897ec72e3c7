import { isThenable } from "../../../shared/thenable.ts";
import type { Operation } from "../../sequences/operations.ts";
import { macrotask, type StepOutcome } from "../../sequences/sequence-run.ts";
import type { Context } from "../../types.ts";
import { deepCopy } from "../../values/equality.ts";
import { callOf, type Wrapping, withSpied } from "../probe.ts";
import type { Script, Spied } from "../spy.ts";

/** What one call of an adapter did. */
export interface AdapterCall {
  /** The calls of the adaptee. */
  readonly calls: readonly (readonly [key: PropertyKey | undefined, args: readonly unknown[]])[];
  readonly outcome: StepOutcome;
  /** What the adaptee's calls returned, in order; promises as what they resolve to. */
  readonly answers: readonly unknown[];
  /** Whether the adaptee's last call failed. */
  readonly hasFailedInside: boolean;
}

/** Returns what a call of an adapter does, with the adaptee following a script. */
export function adapterCall(
  wrapping: Wrapping,
  operation: Operation,
  args: readonly unknown[],
  context: Context<object>,
  script: Script = (_, real) => real(),
): Promise<AdapterCall> {
  return withSpied(wrapping, (wrapper, spy) => callAdapter(wrapper, spy, operation, args, context, script));
}

/** Calls a wrapper, and returns what the call does. */
export async function callAdapter(
  wrapper: object,
  spy: Spied<object>,
  operation: Operation,
  args: readonly unknown[],
  context: Context<object>,
  script: Script = (_, real) => real(),
): Promise<AdapterCall> {
  const answers: unknown[] = [];
  let hasFailedInside = false;
  spy.calls.length = 0;
  spy.script = (call, real) => {
    const at = answers.push(undefined) - 1;
    hasFailedInside = false;
    try {
      const answer = script(call, real);
      answers[at] = answer;
      if (!isThenable(answer)) return answer;
      answer.then(
        (value) => {
          answers[at] = value;
        },
        () => {
          hasFailedInside = at === answers.length - 1;
        },
      );
      return answer;
    } catch (error) {
      hasFailedInside = true;
      throw error;
    }
  };
  const outcome = await callOf(wrapper, operation, deepCopy(args), context).outcome;
  // A call without a result may still be at work.
  if (outcome.raw === undefined) await macrotask();
  return {
    calls: spy.calls.map(({ key, args: sent }) => [key, deepCopy(sent)]),
    outcome,
    answers,
    hasFailedInside,
  };
}
