import fc, { type Arbitrary, type RunDetails } from "fast-check";
import { settleWithin } from "./checks/examples.ts";
import { differenceOutcome } from "./compare.ts";
import type { Finding } from "./finding.ts";
import { untyped, withImplementation } from "./implementation.ts";
import { runSequence, type SequenceResult } from "./sequences/sequence-run.ts";
import { type Step, sequencesOf } from "./sequences/steps.ts";
import { stepsCode } from "./sequences/steps-code.ts";
import type { Factory, Law } from "./types.ts";
import { formatValue, reasonOf } from "./values/format.ts";

/**
 * Creates a stateless law: a statement about all values of a kind, tried on generated ones. It is broken if
 * `holds` returns `false`, throws or rejects; the value is then shrunk. One implementation meets all values.
 *
 * @param given fast-check arbitrary of the values
 */
export function law<Target, Value>(
  input: Arbitrary<Value>,
  holds: (implementation: Target, value: Value) => unknown,
): Law<Target> {
  return {
    findings: (name, implementation, { runs, seed, timeout }) =>
      withImplementation(implementation, async (instance) => {
        const property = fc.asyncProperty(input, (value) => required(() => holds(instance, value), timeout));
        const details = await fc.check(property, { numRuns: runs, seed });
        return details.failed ? [lawFinding(name, details)] : [];
      }),
  };
}

/**
 * Creates a stateful law: a statement that holds after every call of any sequence of calls. It is broken if
 * `holds` returns `false`, throws or rejects; the sequence is then shrunk.
 */
export function always<Target extends object>(holds: (implementation: Target) => unknown): Law<Target> {
  return {
    findings: async (name, implementation, context) => {
      const operations = await context.operations();
      const { runs, length, seed, timeout, guards } = context;
      const broken = (
        steps: readonly Step[],
      ): Promise<(SequenceResult & { reason: unknown; at: number }) | undefined> =>
        withImplementation(implementation, async (instance) => {
          const outcomes = [];
          const reused = new Map<string, number>();
          for (const [at, step] of steps.entries()) {
            const played = await runSequence(instance, [step], { timeout, guards });
            outcomes.push(...played.outcomes);
            const reason = await required(() => holds(instance), timeout).then(
              () => undefined,
              (error: unknown) => ({ error }),
            );
            if (reason)
              return {
                outcomes,
                reused,
                callbacks: [],
                mutated: [],
                given: new Map(),
                repeated: new Map(),
                reason: reason.error,
                at,
              };
          }
          return undefined;
        });
      const property = fc.asyncProperty(
        sequencesOf(operations, { length, isConcurrent: false }),
        async (steps) => (await broken(steps)) === undefined,
      );
      const details = await fc.check(property, { numRuns: runs, seed });
      if (!details.failed) return [];
      const finding = (details.counterexample as [readonly Step[]])[0];
      const played = await broken(finding);
      if (!played) return [];
      const steps = finding.slice(0, played.at + 1);
      const calls = steps.length === 1 ? "one call" : `${steps.length} calls`;
      return [
        {
          name: "law",
          place: name,
          expected: "the law to hold after every sequence of calls",
          found: `broken after ${calls}: ${reasonOf(played.reason)}`,
          remedy: `Fix the wrapper. Reproduce with seed ${details.seed}.`,
          code: stepsCode(steps, played),
        },
      ];
    },
  };
}

/**
 * Creates a stateful law: after any sequence of calls, an implementation answers as a simple model of it
 * does. A model may have only some of the members; only those are called.
 */
export function behavesLike<Target extends object>(model: Factory<Partial<Target>>): Law<Target> {
  return {
    findings: async (name, implementation, context) => {
      const modelInstance = await withImplementation(untyped(model), async (instance) => instance);
      const operations = (await context.operations()).filter(
        ({ key }) => key === undefined || key in modelInstance,
      );
      const { findings } = await differenceOutcome(
        { reference: untyped(model), named: "the model" },
        untyped(implementation),
        operations,
        { ...context, isConcurrent: false },
        { equal: context.contract.equal, errors: "class" },
      );
      return findings.map((finding) => ({ ...finding, name: "law", place: name }));
    },
  };
}

async function required(holds: () => unknown, timeout: number): Promise<void> {
  if ((await settleWithin(holds, timeout)) === false) throw new Error("it returned false");
}

function lawFinding<Value>(name: string, details: RunDetails<[Value]>): Finding {
  const { counterexample, errorInstance, seed, numShrinks } = details;
  return {
    name: "law",
    place: name,
    expected: "the law to hold for all values",
    found: `broken by ${formatValue(counterexample?.[0])}: ${reasonOf(errorInstance)}`,
    remedy: `Fix the wrapper. Reproduce with seed ${seed}; the value was shrunk ${numShrinks === 1 ? "once" : `${numShrinks} times`}.`,
  };
}
