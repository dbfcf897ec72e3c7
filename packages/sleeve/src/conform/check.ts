import { check as checkProperty, type RunDetails } from "fast-check";
import { describe } from "../forward/subject.ts";
import { layer } from "../layers/layer.ts";
import { succeeded } from "../layers/outcome.ts";
import { reflect } from "../surface/reflect.ts";
import { decorate } from "../wrappers/decorate.ts";
import type { Contract, ErrorClass, Refusal } from "./contract.ts";
import type { Finding } from "./finding.ts";
import { type Implementations, lend } from "./implementation.ts";

/** One thing to check of every implementation, with a name that states what holds. */
export interface Check<Target> {
  readonly name: string;
  run(given: Implementations<Target>[string]): Promise<readonly Finding[]>;
}

export interface CheckOptions {
  /** How many values each law is tried on. 100, unless given. */
  readonly runs?: number;
  /** Makes the generated values the same in every run. 1, unless given. */
  readonly seed?: number;
}

/** The checks that a contract comes to: one for its surface, and one for each example, law and refusal. */
export function checksOf<Target extends object>(
  { surface, examples, laws, refusals, errors }: Contract<Target>,
  { runs = 100, seed = 1 }: CheckOptions = {},
): readonly Check<Target>[] {
  const check = (
    name: string,
    run: (implementation: Target) => Promise<readonly Finding[]>,
  ): Check<Target> => ({
    name,
    run: (given) => lend(given, run).catch((error: unknown) => [setupFinding(name, error)]),
  });
  const watched = (
    name: string,
    run: (implementation: Target) => Promise<readonly Finding[]>,
  ): Check<Target> =>
    check(name, async (implementation) => {
      const escaped: Finding[] = [];
      const found = await run(watchingErrors(implementation, errors, escaped));
      // An error that escaped is why the check failed, so it is told in place of the check's own finding.
      return escaped.length > 0 ? escaped : found;
    });
  return [
    check("has every member of its surface", async (implementation) =>
      surfaceFindings(implementation, surface),
    ),
    ...Object.entries(examples).map(([name, example]) =>
      watched(name, async (implementation) => {
        const failure = await failureOf(() => example(implementation));
        return failure ? [exampleFinding(name, failure.error)] : [];
      }),
    ),
    ...Object.entries(laws).map(([name, law]) =>
      watched(name, async (implementation) => {
        const details = await checkProperty(law.property(implementation), { numRuns: runs, seed });
        return details.failed ? [lawFinding(name, details)] : [];
      }),
    ),
    ...Object.entries(refusals).map(([name, refusal]) =>
      watched(`refuses ${name}`, (implementation) => refusalFindings(name, refusal, implementation)),
    ),
  ];
}

function surfaceFindings(
  implementation: object,
  surface: Readonly<Record<string, string>>,
): readonly Finding[] {
  const members = new Map(reflect(implementation).map((member) => [member.key, member]));
  return Reflect.ownKeys(surface).flatMap((key): Finding[] => {
    const expected = Reflect.get(surface, key) as "method" | "property";
    const place = String(key);
    const member = members.get(key);
    if (!member) {
      const has = [...members.values()].map(({ label }) => label).join(", ") || "no members";
      return [
        {
          name: "missing",
          place,
          expected: `a ${expected} ${place}`,
          found: `none; ${describe(implementation)} has ${has}`,
          remedy: `Give the wrapper its ${place}.`,
        },
      ];
    }
    const kind = member.kind === "method" || isFunctionValued(implementation, key) ? "method" : "property";
    if (kind === expected) return [];
    return [
      {
        name: "kind",
        place,
        expected: `a ${expected}`,
        found: `a ${kind}`,
        remedy: `Make ${place} a ${expected}.`,
      },
    ];
  });
}

function isFunctionValued(implementation: object, key: PropertyKey): boolean {
  return typeof Reflect.get(implementation, key) === "function";
}

/** The implementation, with a note taken of every error that no class in `allowed` accounts for. */
function watchingErrors<Target extends object>(
  implementation: Target,
  allowed: readonly ErrorClass[],
  escaped: Finding[],
): Target {
  const watch = layer("watchingErrors", {
    watch:
      ({ label }) =>
      () =>
      (outcome) => {
        if (succeeded(outcome) || allowed.some((each) => outcome.error instanceof each)) return;
        escaped.push({
          name: "escaped",
          place: label,
          expected:
            allowed.length > 0 ? `no error but ${allowed.map(({ name }) => name).join(", ")}` : "no error",
          found: `${outcome.status} ${errorText(outcome.error)}`,
          remedy: "Translate the error in the wrapper, or list its class in the contract's errors.",
        });
      },
  });
  return decorate(implementation, watch);
}

async function failureOf(run: () => unknown): Promise<{ readonly error: unknown } | undefined> {
  try {
    return (await run()) === false ? { error: new Error("it gave false") } : undefined;
  } catch (error) {
    return { error };
  }
}

function setupFinding(name: string, error: unknown): Finding {
  return {
    name: "setup",
    place: name,
    expected: "an implementation that can be made, used and released",
    found: errorText(error),
    remedy: "Correct what makes or releases it.",
  };
}

function exampleFinding(name: string, error: unknown): Finding {
  return {
    name: "example",
    place: name,
    expected: "the example to hold",
    found: reasonOf(error),
    remedy: "Mend the wrapper, or the example if it asks for too much.",
  };
}

function lawFinding(name: string, details: RunDetails<[unknown]>): Finding {
  const { counterexample, errorInstance, seed, numShrinks } = details;
  return {
    name: "law",
    place: name,
    expected: "the law to hold for all values",
    found: `broken by ${shown(counterexample?.[0])}: ${reasonOf(errorInstance)}`,
    remedy: `Mend the wrapper. Seed ${seed} brings the value back, found after ${numShrinks} steps of shrinking.`,
  };
}

async function refusalFindings<Target>(
  name: string,
  { call, error: expected }: Refusal<Target>,
  implementation: Target,
): Promise<Finding[]> {
  let found: string;
  try {
    found = `the answer ${shown(await call(implementation))}`;
  } catch (error) {
    if (error instanceof expected) return [];
    found = errorText(error);
  }
  const remedy = `Let the wrapper fail with ${expected.name}; an error must not be swallowed.`;
  return [
    { name: "refusal", place: name, expected: `the call to fail with ${expected.name}`, found, remedy },
  ];
}

/** What an assertion said, without the name of its class, which tells nothing. */
function reasonOf(error: unknown): string {
  return error instanceof Error ? error.message : shown(error);
}

function errorText(error: unknown): string {
  return error instanceof Error ? `${error.name}: ${error.message}` : `the non-error ${shown(error)}`;
}

function shown(value: unknown): string {
  if (value instanceof Date) return Number.isNaN(value.getTime()) ? "an invalid date" : value.toISOString();
  if (typeof value === "string") return JSON.stringify(value);
  if (typeof value !== "object" || value === null) return String(value);
  try {
    return JSON.stringify(value) ?? String(value);
  } catch {
    return describe(value);
  }
}
