import fc, { type Arbitrary } from "fast-check";
import { layer } from "../../layers/layer.ts";
import { isThenable } from "../../shared/thenable.ts";
import { decorate } from "../../wrappers/decorate.ts";
import { withTimeout } from "../execution/timeout.ts";
import { captureUncaught } from "../execution/uncaught-errors.ts";
import { runWithWatchdog } from "../execution/watchdog.ts";
import { withImplementation } from "../implementation.ts";
import type { Implementation } from "../types.ts";
import { anything, rareValues, valuesOf } from "../values/arbitraries.ts";
import { equalValues } from "../values/equality.ts";
import { isObject, safeGet, tagOf, type ValueSchema } from "../values/schema.ts";
import type { LearnedArguments, Operation } from "./operations.ts";
import { ParameterUse, recordingValue, schemaOfUse } from "./parameter-use.ts";
import { perform } from "./perform.ts";
import type { StepOutcome } from "./sequence-run.ts";
import { sourceLiterals } from "./source-literals.ts";

export interface LearningSources {
  /** An implementation that handles valid arguments: the reference, if there is one. */
  readonly sample: Implementation<object>;
  /** The implementation that is checked. Only the literals in its source text are used. */
  readonly implementation: Implementation<object>;
  /** Statements of the contract that call the target. */
  readonly calls: readonly ((target: object) => unknown)[];
}

export interface LearningTerms {
  readonly seed: number;
  /** Timeout of a call, in milliseconds. */
  readonly timeout: number;
}

/**
 * Returns operations whose untyped arguments are like those that an implementation handles: it is called once with
 * values that record how they are used, and the arguments of the contract's examples and refusals are collected.
 */
export async function learnArguments(
  operations: readonly Operation[],
  { sample, implementation, calls }: LearningSources,
  terms: LearningTerms,
): Promise<readonly Operation[]> {
  if (!operations.some(isLearnable)) return operations;
  const { result } = await captureUncaught(async () => {
    const learning = new Learning(sample, implementation, terms);
    const argumentsByMember = await learning.argumentsOf(calls);
    const learned: Operation[] = [];
    for (const operation of operations)
      learned.push(
        isLearnable(operation)
          ? await learning.learned(operation, argumentsByMember.get(operation.label) ?? [])
          : operation,
      );
    return learned;
  });
  return result;
}

function isLearnable({ use, isTyped, arity }: Operation): boolean {
  return use === "call" && !isTyped && arity > 0;
}

/** Whether the differing answer of an implementation to these arguments says nothing about it. */
export function isMeaningless(
  { learned }: Operation,
  args: readonly unknown[],
  { status, value }: StepOutcome,
): boolean {
  if (!learned) return false;
  if (args.some((item, place) => isConverted(item, learned.converted[place]))) return true;
  if (status === "threw" || status === "rejected")
    return value instanceof Error && value.constructor === TypeError;
  return isNonsense(value, args);
}

function isConverted(argument: unknown, kind: "number" | "string" | undefined): boolean {
  if (kind === undefined) return false;
  return kind === "number"
    ? typeof argument !== "number" || Number.isNaN(argument)
    : typeof argument !== "string";
}

/** Whether a result comes from a conversion that failed. */
function isNonsense(value: unknown, args: readonly unknown[], depth = 0): boolean {
  if (typeof value === "number") return Number.isNaN(value) && !args.some((item) => Number.isNaN(item));
  if (typeof value === "string")
    return (
      /\bNaN\b|\bundefined\b|\[object \w+\]/.test(value) &&
      !args.some((item) => typeof item === "string" && item !== "" && value.includes(item))
    );
  if (!isObject(value) || depth > 3 || typeof value === "function") return false;
  return Object.values(value).some((item) => isNonsense(item, args, depth + 1));
}

/** Values of one kind; each is tried twice. */
const KINDS: readonly (readonly unknown[])[] = [
  [1, 4],
  ["a", "b"],
  [true, false],
  [null, null],
  [undefined, undefined],
  [{ a: 1 }, { a: 2 }],
  [[1], [2, 3]],
];

/** Longest time for one call, in milliseconds. */
const MAX_CALL = 100;
/** Shares of generated values, of those in the contract's examples, of literals in the source text, and of rare values. */
const WEIGHTS = { generated: 4, example: 2, literal: 2, rare: 1 };

class Learning {
  readonly #sample: Implementation<object>;
  readonly #implementation: Implementation<object>;
  readonly #terms: LearningTerms;

  constructor(sample: Implementation<object>, implementation: Implementation<object>, terms: LearningTerms) {
    this.#sample = sample;
    this.#implementation = implementation;
    this.#terms = terms;
  }

  /** Returns the arguments with which statements call the members of a target. */
  async argumentsOf(
    calls: LearningSources["calls"],
  ): Promise<ReadonlyMap<string, readonly (readonly unknown[])[]>> {
    const cache = new Map<string, (readonly unknown[])[]>();
    const noting = layer("noting", {
      call:
        (next, { label }) =>
        (call) => {
          const lists = cache.get(label) ?? [];
          cache.set(label, lists);
          lists.push(call.args);
          return next(call);
        },
    });
    for (const run of calls)
      await this.#with((instance) => {
        const noted = decorate(instance, noting);
        return run(noted);
      });
    return cache;
  }

  async learned(operation: Operation, examples: readonly (readonly unknown[])[]): Promise<Operation> {
    const { key, arity, args: all } = operation;
    const methodOf = (implementation: Implementation<object>) =>
      withImplementation(implementation, async (instance) =>
        key === undefined ? instance : safeGet(instance, key),
      );
    const method = await methodOf(this.#sample);
    const literals = sourceLiterals([method, await methodOf(this.#implementation)]);
    const schemas: (ValueSchema | undefined)[] = [];
    const converted: LearnedArguments["converted"][number][] = [];
    for (let place = 0; place < arity; place += 1) {
      const shown = examples.filter((list) => place < list.length).map((list) => list[place]);
      const reused = await this.#used(operation, place, schemas, shown);
      schemas.push(reused?.schema ?? commonSchema(shown));
      converted.push(reused?.converted);
    }
    const parameters: Arbitrary<unknown>[] = [];
    for (const [place, schema] of schemas.entries()) {
      const shown = examples.filter((list) => place < list.length).map((list) => list[place]);
      const generated = schema ? valuesOf(schema) : await this.#handled(operation, place, schemas);
      parameters.push(withKnown(generated, schema, shown, literals));
    }
    const least = Math.min(arity, declaredLength(method));
    const lists = Array.from({ length: arity - least + 1 }, (_, more) =>
      fc.tuple(...parameters.slice(0, least + more)),
    );
    return { ...operation, args: fc.oneof(...lists), learned: { all, converted } };
  }

  /** Returns a schema of what a member does with one of its arguments. */
  async #used(
    operation: Operation,
    place: number,
    before: readonly (ValueSchema | undefined)[],
    shown: readonly unknown[],
  ): Promise<
    { readonly schema: ValueSchema; readonly converted: LearnedArguments["converted"][number] } | undefined
  > {
    for (const isFunction of [false, true]) {
      const use = new ParameterUse();
      const args = this.#plainArguments(operation, before).with(place, recordingValue(use, isFunction));
      const outcome = await this.#call(operation, args);
      const schema = schemaOfUse(use, outcome?.value);
      if (!schema || !shown.every((value) => fits(value, schema))) continue;
      const { type } = schema;
      const isConverted = use.fields.size === 0 && (type === "number" || type === "string");
      return { schema, converted: isConverted ? type : undefined };
    }
    return undefined;
  }

  /** Returns values of the kinds that a member handles; of all kinds if it handles none or all of them. */
  async #handled(
    operation: Operation,
    place: number,
    schemas: readonly (ValueSchema | undefined)[],
  ): Promise<Arbitrary<unknown>> {
    const handled: unknown[] = [];
    for (const values of KINDS) {
      for (const value of values) {
        const args = this.#plainArguments(operation, schemas).with(place, value);
        const outcome = await this.#call(operation, args);
        const isHandled = outcome && !isMeaningless({ ...operation, learned: EVERY_KIND }, args, outcome);
        if (isHandled) handled.push(kindOf(value));
      }
    }
    const kinds = new Set(handled);
    return kinds.size === 0 || kinds.size === KINDS.length
      ? anything()
      : anything().filter((value) => kinds.has(kindOf(value)));
  }

  #plainArguments({ arity }: Operation, schemas: readonly (ValueSchema | undefined)[]): unknown[] {
    const { seed } = this.#terms;
    return Array.from({ length: arity }, (_, place) => {
      const schema = schemas[place];
      return schema ? fc.sample(valuesOf(schema), { seed, numRuns: 1 })[0] : 1;
    });
  }

  /** Returns how a call of a new object ends; `undefined` if it does not end. */
  #call(operation: Operation, args: readonly unknown[]): Promise<StepOutcome | undefined> {
    return this.#with((instance) => perform(instance, operation, args));
  }

  #with(run: (made: object) => unknown): Promise<StepOutcome | undefined> {
    const timeout = Math.min(this.#terms.timeout, MAX_CALL);
    return withImplementation(this.#sample, async (instance) => {
      try {
        const raw = runWithWatchdog(() => run(instance), timeout);
        if (!isThenable(raw)) return { status: "returned", raw, value: raw } satisfies StepOutcome;
        return await withTimeout(
          raw.then(
            (value): StepOutcome => ({ status: "resolved", raw: value, value }),
            (error: unknown): StepOutcome => ({ status: "rejected", raw: error, value: error }),
          ),
          timeout,
        );
      } catch (error) {
        return { status: "threw", raw: error, value: error };
      }
    });
  }
}

const EVERY_KIND: LearnedArguments = { all: fc.constant([]), converted: [] };

function declaredLength(method: unknown): number {
  return typeof method === "function" ? method.length : 0;
}

function kindOf(value: unknown): string {
  if (isObject(value)) return tagOf(value);
  return value === null ? "null" : typeof value;
}

function fits(value: unknown, schema: ValueSchema): boolean {
  if (schema.anyOf) return schema.anyOf.some((one) => fits(value, one));
  if (schema.function) return typeof value === "function";
  if (schema.instanceOf) return tagOf(value) === schema.instanceOf;
  if (schema.type === "object") return isObject(value);
  return schema.type === "array" ? Array.isArray(value) : typeof value === schema.type;
}

/** Returns a schema of the values in examples, if all are of one kind. */
function commonSchema(values: readonly unknown[]): ValueSchema | undefined {
  const [firstValue] = values;
  if (firstValue === undefined || values.some((value) => kindOf(value) !== kindOf(firstValue)))
    return undefined;
  switch (typeof firstValue) {
    case "number":
    case "string":
    case "boolean":
    case "bigint":
      return { type: typeof firstValue };
    case "function":
      return { function: true };
    default:
  }
  if (firstValue instanceof Date) return { instanceOf: "Date" };
  if (tagOf(firstValue) !== "Object") return undefined;
  const records = values as readonly Record<string, unknown>[];
  const properties = Object.fromEntries(
    Object.keys(firstValue as object).map((name) => [
      name,
      commonSchema(records.map((record) => record[name])) ?? {},
    ]),
  );
  const required = Object.keys(properties).filter((name) => records.every((record) => name in record));
  return { type: "object", properties, required };
}

/** Adds the values of examples, literals of the source text, and rare values to generated values. */
function withKnown(
  generated: Arbitrary<unknown>,
  schema: ValueSchema | undefined,
  shown: readonly unknown[],
  { numbers, texts }: { readonly numbers: readonly number[]; readonly texts: readonly string[] },
): Arbitrary<unknown> {
  const isAny = !schema || schema.anyOf !== undefined;
  const literals: readonly unknown[] = [
    ...(isAny || schema.type === "number" ? numbers : []),
    ...(isAny || schema.type === "string" ? texts : []),
  ];
  const distinct = shown.filter(
    (value, at) => shown.findIndex((candidate) => equalValues(candidate, value)) === at,
  );
  const rare = schema && rareValues(schema);
  return fc.oneof(
    { weight: WEIGHTS.generated, arbitrary: generated },
    ...(distinct.length > 0 ? [{ weight: WEIGHTS.example, arbitrary: fc.constantFrom(...distinct) }] : []),
    ...(literals.length > 0 ? [{ weight: WEIGHTS.literal, arbitrary: fc.constantFrom(...literals) }] : []),
    ...(rare ? [{ weight: WEIGHTS.rare, arbitrary: rare }] : []),
  );
}
