import type { Contract } from "./contract.ts";
import { Coverage } from "./coverage.ts";
import { type Implementation, isWrapper, lend, untyped } from "./implementation.ts";
import { type Operation, operationsOf } from "./operations.ts";
import { badContract } from "./values.ts";

export interface CheckOptions {
  /** How many values or sequences each check is tried on. 100, unless given. */
  readonly runs?: number;
  /** The most calls in a generated sequence. 20, unless given. */
  readonly length?: number;
  /** Makes what is generated the same in every run. 1, unless given. */
  readonly seed?: number;
  /** How long one call may take, in milliseconds, before it counts as one that does not end. 1000, unless given. */
  readonly deadline?: number;
  /** Whether calls are also made while others are under way. They are, unless given. */
  readonly isConcurrent?: boolean;
}

/** What the checks of one implementation have in common. */
export interface Context<Target> extends Required<CheckOptions> {
  readonly contract: Contract<Target>;
  readonly implementation: Implementation<Target>;
  /** All that a client can do with the target, without what is known to have no end. */
  operations(): Promise<readonly Operation[]>;
  /** Members that did not end within the deadline; that was told once, and is not waited for again. */
  readonly endless: Set<string>;
  /** How often each member was called in a guarded way. */
  readonly guards: Map<string, number>;
  readonly coverage: Coverage;
}

export function contextOf<Target extends object>(
  contract: Contract<Target>,
  implementation: Implementation<Target>,
  options: CheckOptions,
  coverage = new Coverage(contract),
): Context<Target> {
  const { runs = 100, length = 20, seed = 1, deadline = 1000, isConcurrent = true } = options;
  requirePositive({ runs, length, deadline });
  const endless = new Set<string>();
  let operations: Promise<readonly Operation[]> | undefined;
  return {
    contract,
    implementation,
    runs,
    length,
    seed,
    deadline,
    isConcurrent,
    guards: new Map(),
    coverage,
    endless,
    operations: async () => {
      operations ??= lend(sampleOf(contract, implementation), async (sample) => {
        const { surface, arguments: args } = contract;
        const found = operationsOf({ surface, args, sample });
        coverage.expect(found);
        return found;
      });
      return (await operations).filter(({ label }) => !endless.has(label));
    },
  };
}

function sampleOf<Target extends object>(
  { reference }: Contract<Target>,
  implementation: Implementation<Target>,
): Implementation<object> {
  if (reference) return untyped(reference);
  return (isWrapper(implementation) && implementation.subject) || untyped(implementation);
}

function requirePositive(options: Readonly<Record<string, number>>): void {
  for (const [name, value] of Object.entries(options)) {
    if (!(value > 0)) throw badContract(`\`${name}\` is ${value}. Give a number above 0.`);
  }
}
