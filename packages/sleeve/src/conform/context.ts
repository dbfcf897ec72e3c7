import type { Contract } from "./contract.ts";
import { Coverage } from "./coverage.ts";
import { type Implementation, isWrapper, untyped, withImplementation } from "./implementation.ts";
import { type Operation, operationsOf } from "./operations.ts";
import { badContract } from "./values.ts";

export interface CheckOptions {
  /** Number of values or sequences that each check tries. Default: 100. */
  readonly runs?: number;
  /** Maximum number of calls in a generated sequence. Default: 20. */
  readonly length?: number;
  /** Seed of the generators; the same seed gives the same run. Default: 1. */
  readonly seed?: number;
  /**
   * Timeout of one call, in milliseconds. A call that exceeds it counts as one that does not end. Default:
   * 1000.
   */
  readonly timeout?: number;
  /** Whether calls are also made while others are in flight. Default: `true`. */
  readonly isConcurrent?: boolean;
}

/** What the checks of one implementation share. */
export interface Context<Target> extends Required<CheckOptions> {
  readonly contract: Contract<Target>;
  readonly implementation: Implementation<Target>;
  /** All operations of the target, except those known not to end. */
  operations(): Promise<readonly Operation[]>;
  /** Members that exceeded the timeout. They were reported and are not called again. */
  readonly endless: Set<string>;
  /** Number of watchdog calls of each member. */
  readonly guards: Map<string, number>;
  readonly coverage: Coverage;
}

export function contextOf<Target extends object>(
  contract: Contract<Target>,
  implementation: Implementation<Target>,
  options: CheckOptions,
  coverage = new Coverage(contract),
): Context<Target> {
  const { runs = 100, length = 20, seed = 1, timeout = 1000, isConcurrent = true } = options;
  requirePositive({ runs, length, timeout });
  const endless = new Set<string>();
  let operations: Promise<readonly Operation[]> | undefined;
  return {
    contract,
    implementation,
    runs,
    length,
    seed,
    timeout,
    isConcurrent,
    guards: new Map(),
    coverage,
    endless,
    operations: async () => {
      operations ??= withImplementation(sampleOf(contract, implementation), async (sample) => {
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
    if (!(value > 0)) throw badContract(`\`${name}\` is ${value}. Pass a number above 0.`);
  }
}
