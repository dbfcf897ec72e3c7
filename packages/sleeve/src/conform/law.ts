import fc, { type Arbitrary, type RunDetails } from "fast-check";
import { ended } from "./checks/terms.ts";
import { codeOf } from "./code.ts";
import { differenceOutcome } from "./compare.ts";
import type { Context } from "./context.ts";
import type { Finding } from "./finding.ts";
import { type Factory, type Implementation, lend, untyped } from "./implementation.ts";
import { type Played, play } from "./play.ts";
import { type Step, sequencesOf } from "./steps.ts";
import { reasonOf, shown } from "./text.ts";

/** What holds of every implementation. Made by {@link law}, {@link always} or {@link behavesLike}. */
export interface Law<Target> {
  findings(
    name: string,
    implementation: Implementation<Target>,
    context: Context<object>,
  ): Promise<readonly Finding[]>;
}

/**
 * A law without state: what holds for all values of a kind, tried on generated ones. It is broken where `holds` gives
 * `false`, throws or rejects; the value is then shrunk to its simplest form. One implementation meets all the values.
 *
 * @param given makes the values; of the fast-check package
 */
export function law<Target, Value>(
  given: Arbitrary<Value>,
  holds: (implementation: Target, value: Value) => unknown,
): Law<Target> {
  return {
    findings: (name, implementation, { runs, seed, deadline }) =>
      lend(implementation, async (made) => {
        const property = fc.asyncProperty(given, (value) => required(() => holds(made, value), deadline));
        const details = await fc.check(property, { numRuns: runs, seed });
        return details.failed ? [lawFinding(name, details)] : [];
      }),
  };
}

/**
 * A law with state: what holds after every call of any sequence of calls. It is broken where `holds` gives `false`, throws
 * or rejects; the sequence is then shrunk to the shortest that breaks it.
 */
export function always<Target extends object>(holds: (implementation: Target) => unknown): Law<Target> {
  return {
    findings: async (name, implementation, context) => {
      const operations = await context.operations();
      const { runs, length, seed, deadline, guards } = context;
      const broken = (
        steps: readonly Step[],
      ): Promise<(Played & { reason: unknown; at: number }) | undefined> =>
        lend(implementation, async (made) => {
          const seen = [];
          const reused = new Map<string, number>();
          for (const [at, step] of steps.entries()) {
            const played = await play(made, [step], { deadline, guards });
            seen.push(...played.seen);
            const reason = await required(() => holds(made), deadline).then(
              () => undefined,
              (error: unknown) => ({ error }),
            );
            if (reason) return { seen, reused, callbacks: [], mutated: [], reason: reason.error, at };
          }
          return undefined;
        });
      const property = fc.asyncProperty(
        sequencesOf(operations, { length, isConcurrent: false }),
        async (steps) => (await broken(steps)) === undefined,
      );
      const details = await fc.check(property, { numRuns: runs, seed });
      if (!details.failed) return [];
      const found = (details.counterexample as [readonly Step[]])[0];
      const played = await broken(found);
      if (!played) return [];
      const steps = found.slice(0, played.at + 1);
      const calls = steps.length === 1 ? "one call" : `${steps.length} calls`;
      return [
        {
          name: "law",
          place: name,
          expected: "the law to hold after every sequence of calls",
          found: `broken after ${calls}: ${reasonOf(played.reason)}`,
          remedy: `Mend the wrapper. Seed ${details.seed} brings the calls back.`,
          code: codeOf(steps, played),
        },
      ];
    },
  };
}

/**
 * A law with state: after any sequence of calls an implementation answers as a simple model of it does. The model may have
 * some of the members only; the others are then left out.
 */
export function behavesLike<Target extends object>(model: Factory<Partial<Target>>): Law<Target> {
  return {
    findings: async (name, implementation, context) => {
      const known = await lend(untyped(model), async (made) => made);
      const operations = (await context.operations()).filter(({ key }) => key === undefined || key in known);
      const { findings } = await differenceOutcome(
        { reference: untyped(model), named: "the model" },
        untyped(implementation),
        operations,
        { ...context, isConcurrent: false },
        { equal: context.contract.equal, errors: "class" },
      );
      return findings.map((each) => ({ ...each, name: "law", place: name }));
    },
  };
}

async function required(holds: () => unknown, deadline: number): Promise<void> {
  if ((await ended(holds, deadline)) === false) throw new Error("it gave false");
}

function lawFinding<Value>(name: string, details: RunDetails<[Value]>): Finding {
  const { counterexample, errorInstance, seed, numShrinks } = details;
  return {
    name: "law",
    place: name,
    expected: "the law to hold for all values",
    found: `broken by ${shown(counterexample?.[0])}: ${reasonOf(errorInstance)}`,
    remedy: `Mend the wrapper. Seed ${seed} brings the value back, shrunk ${numShrinks === 1 ? "once" : `${numShrinks} times`}.`,
  };
}
