import { Coverage } from "./coverage.ts";
import { untyped, withImplementation } from "./implementation.ts";
import { type LearningSources, type LearningTerms, learnArguments } from "./sequences/learned-arguments.ts";
import { membersOf, type Operation, operationsOf } from "./sequences/operations.ts";
import type { CheckOptions, Context, Contract, Implementation } from "./types.ts";
import { badContract } from "./values/arbitraries.ts";

export function contextOf<Target extends object>(
  contract: Contract<Target>,
  implementation: Implementation<Target>,
  options: CheckOptions,
  coverage = new Coverage(contract),
): Context<Target> {
  const { runs = 100, length = 20, seed = 1, timeout = 1000, isConcurrent = true, path } = options;
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
    path,
    guards: new Map(),
    coverage,
    endless,
    operations: async () => {
      operations ??= cachedOperations(contract, implementation, { seed, timeout }).then((finding) => {
        coverage.expect(finding);
        return finding;
      });
      return (await operations).filter(({ label }) => !endless.has(label));
    },
  };
}

/** The operations of contracts, by what they were learned from. Faulty versions of a wrapper have the same. */
const cache = new WeakMap<object, WeakMap<object, Map<string, Promise<readonly Operation[]>>>>();

function cachedOperations<Target extends object>(
  contract: Contract<Target>,
  implementation: Implementation<Target>,
  terms: LearningTerms,
): Promise<readonly Operation[]> {
  const { sample } = implementation;
  if (!sample) return knownOperations(contract, implementation, terms);
  const ofContract = cache.get(contract) ?? new WeakMap<object, Map<string, Promise<readonly Operation[]>>>();
  cache.set(contract, ofContract);
  const ofSample = ofContract.get(sample) ?? new Map<string, Promise<readonly Operation[]>>();
  ofContract.set(sample, ofSample);
  const key = `${terms.seed} ${terms.timeout}`;
  const operations = ofSample.get(key) ?? knownOperations(contract, implementation, terms);
  ofSample.set(key, operations);
  return operations;
}

async function knownOperations<Target extends object>(
  contract: Contract<Target>,
  implementation: Implementation<Target>,
  terms: LearningTerms,
): Promise<readonly Operation[]> {
  const { surface, arguments: args, examples, refusals, generated } = contract;
  if (generated?.length === 0) return [];
  const sample = sampleOf(contract, implementation);
  const finding = await withImplementation(sample, async (instance) => {
    const keys = generated && new Set(generated);
    requireGenerated(keys, surface, instance);
    return operationsOf({ surface, args, sample: instance, keys });
  });
  const calls = [...Object.values(examples), ...Object.values(refusals).map(({ call }) => call)];
  const sources = {
    sample,
    implementation: untyped(implementation),
    // They are only called with what the sample creates.
    calls: calls as unknown as LearningSources["calls"],
  };
  return learnArguments(finding, sources, terms);
}

function requireGenerated(
  keys: ReadonlySet<PropertyKey> | undefined,
  surface: object | undefined,
  sample: object,
): void {
  const names = membersOf(surface, sample).map(({ key }) => key);
  const unknown = [...(keys ?? [])].find((key) => typeof key !== "number" && !names.includes(key));
  if (unknown !== undefined)
    throw badContract(
      `\`generated\` names ${String(unknown)}, which is no member. Name some of ${names.map(String).join(", ")}.`,
    );
}

function sampleOf<Target extends object>(
  { reference }: Contract<Target>,
  implementation: Implementation<Target>,
): Implementation<object> {
  if (reference) return untyped(reference);
  return implementation.sample ?? untyped(implementation);
}

function requirePositive(options: Readonly<Record<string, number>>): void {
  for (const [name, value] of Object.entries(options)) {
    if (!(value > 0)) throw badContract(`\`${name}\` is ${value}. Pass a number above 0.`);
  }
}
