/** The interfaces of contracts and their checks. */
import type { StandardSchema } from "../layers/core/value-checks.ts";
import type { Surface } from "../surface/surface.ts";
import type { Coverage } from "./coverage.ts";
import type { Finding, FindingName } from "./finding.ts";
import type { ArgumentsOf, Operation } from "./sequences/operations.ts";
import type { SurfaceDocument } from "./surface-document.ts";
import type { EqualityFunction } from "./values/equality.ts";

/** Runs on one implementation. Fails by throwing, rejecting or returning `false`. */
export type Example<Target> = (implementation: Target) => unknown;

/** A call that must fail, and the class of the error. */
export interface ExpectedRefusal<Target> {
  readonly call: (implementation: Target) => unknown;
  // Error classes may have any constructor; only their instances matter here.
  readonly error: ErrorClass;
}

export type ErrorClass = abstract new (...args: never[]) => Error;

/** A check of a member's results: a Standard Schema, or a predicate. */
export type ResultCheck<Result> = StandardSchema | ((result: Result) => boolean);

export type MethodsOf<Target> = {
  [Key in keyof Target]-?: NonNullable<Target[Key]> extends (...args: never[]) => unknown ? Key : never;
}[keyof Target];

export type ResultOf<Method> =
  NonNullable<Method> extends (...args: never[]) => infer Result ? Awaited<Result> : never;

/**
 * A short use of a target, as its callers use it. What it returns, or yields as a generator, must be what it returns or
 * yields with the reference, and it must fail where it fails with the reference.
 */
export type Scenario<Target> = ((implementation: Target) => unknown) | RecordedScenario<Target>;

/** A scenario with the results that it must have, which needs no reference. */
export interface RecordedScenario<Target> {
  readonly use: (implementation: Target) => unknown;
  /** The result, or what the generator yields, in order. */
  readonly results: readonly unknown[];
  /** Whether it ends with an error after these results. Default: `false`. */
  readonly fails?: boolean;
}

/** The parts of a contract, all optional. */
export interface ContractTerms<Target> {
  /**
   * Members of the target: by hand, or as printed by `sleeve surface` from a TypeScript type. Default: the
   * members of the reference or of the implementation.
   */
  readonly surface?: Surface<Target> | SurfaceDocument;
  /**
   * An implementation known to be correct. Others must return equal results and fail with errors of the same
   * classes. Default: none.
   */
  readonly reference?: ImplementationInput<Target>;
  /**
   * Equality of results with those of the reference or model. Default: deep equality. See {@link
   * EqualityOptions}.
   */
  readonly equal?: NonNullable<EqualityOptions["equal"]>;
  /**
   * Generators of arguments by member, if the surface gives none or too general ones. `"()"` is the call of a
   * target that is a function.
   */
  readonly arguments?: { readonly [Key in MethodsOf<Target> | "()"]?: ArgumentsOf };
  /** Checks of results by member. */
  readonly results?: { readonly [Key in MethodsOf<Target>]?: ResultCheck<ResultOf<Target[Key]>> };
  /** Statements about single calls, by name. */
  readonly examples?: Readonly<Record<string, Example<Target>>>;
  /** Uses whose results are compared with those of the reference, or with recorded ones, by name. */
  readonly scenarios?: Readonly<Record<string, Scenario<Target>>>;
  /**
   * Members that generated calls use. Those of a member with effects, such as sending or deleting, belong out of it.
   * Default: all members.
   */
  readonly generated?: readonly (keyof Target)[];
  /** Statements about all values or all sequences of calls, by name. */
  readonly laws?: Readonly<Record<string, Law<Target>>>;
  /** Calls that must fail, by name. */
  readonly refusals?: Readonly<Record<string, ExpectedRefusal<Target>>>;
  /** Classes of the errors that may reach the client. Default: every class. */
  readonly errors?: readonly ErrorClass[];
  /** Contracts of targets that this one extends. Their references are not used. */
  readonly extends?: readonly ExtendedContract<Target>[];
}

/** What every implementation of a target must do. */
export interface Contract<Target> {
  readonly name: string;
  readonly surface: object | undefined;
  readonly reference: ImplementationInput<Target> | undefined;
  readonly equal: NonNullable<EqualityOptions["equal"]>;
  readonly arguments: Readonly<Record<string, ArgumentsOf>>;
  readonly results: Readonly<Record<string, ResultCheck<never>>>;
  readonly examples: Readonly<Record<string, Example<Target>>>;
  readonly scenarios: Readonly<Record<string, Scenario<Target>>>;
  /** `undefined` if generated calls use all members. */
  readonly generated: readonly PropertyKey[] | undefined;
  readonly laws: Readonly<Record<string, Law<Target>>>;
  readonly refusals: Readonly<Record<string, ExpectedRefusal<Target>>>;
  /** `undefined` if any error is allowed. */
  readonly errors: readonly ErrorClass[] | undefined;
}

/** The contract of a target that `Target` extends. */
export type ExtendedContract<Target> = Omit<Contract<Target>, "reference" | "equal">;

/** How results and errors are compared. */
export interface EqualityOptions {
  /**
   * - `"value"`: deeply equal.
   * - `"identity"`: moreover, results that are one object on one side are one on the other.
   * - a function: decides for two values; `within(tolerance)` creates one.
   *
   * Default: `"value"`.
   */
  readonly equal?: "value" | "identity" | EqualityFunction;
  /** Whether errors are compared by class and message, or by class only. Default: `"message"`. */
  readonly errors?: "message" | "class";
}

/** What holds for every implementation. Created by {@link law}, {@link always} or {@link behavesLike}. */
export interface Law<Target> {
  findings(
    name: string,
    implementation: Implementation<Target>,
    context: Context<object>,
  ): Promise<readonly Finding[]>;
}

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
  /** Replays one sequence of an earlier run, together with its seed: the path that a finding names. Default: all. */
  readonly path?: string;
}

/** What the checks of one implementation share. */
export interface Context<Target> extends Required<Omit<CheckOptions, "path">> {
  readonly path: string | undefined;
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

/** Creates an implementation; a promise of it is awaited. */
export type Factory<Made> = () => Made | Promise<Made>;

/** Creates an implementation and, if it holds resources, releases it. */
export interface Implementation<Target> {
  readonly create: Factory<Target>;
  release?(implementation: Target): unknown;
  /** Accepted findings, each with the reason; they are reported and do not fail. */
  readonly suppressions?: Suppressions;
  /** Creates an object to learn the members and their parameters from. Default: the implementation itself. */
  readonly sample?: Implementation<object>;
}

export type Suppressions = { readonly [Name in FindingName]?: string };

/** An implementation that is a wrapper, with the laws of its kind. Created by `decoratorOf` and its like. */
export interface Wrapper<Target> extends Implementation<Target> {
  readonly kind: "decorator" | "proxy" | "adapter" | "facade" | "bridge" | "cache" | "guard" | "stub";
  /** Further checks besides the contract. */
  checks(context: Context<object>): readonly ContractCheck[];
  /**
   * Returns the same wrapper with a change to what its factory returns, to test whether the checks detect it.
   */
  altered(change: (wrapper: object) => object): Wrapper<Target>;
}

/** Implementations by name. A function is a factory of one that needs no release. */
export type Implementations<Target> = Readonly<Record<string, ImplementationInput<Target>>>;

export type ImplementationInput<Target> = Implementation<Target> | Wrapper<Target> | Factory<Target>;

/** One check of an implementation, named as a statement. */
export interface ContractCheck {
  readonly name: string;
  run(): Promise<CheckResult>;
}

export interface CheckResult {
  readonly findings: readonly Finding[];
  /** Suppressed findings, each with the reason. */
  readonly suppressed: readonly { readonly finding: Finding; readonly reason: string }[];
  /** What could not be checked, and why. */
  readonly notes: readonly string[];
}

/** The result of a check before suppressions are applied. */
export type Outcome =
  | readonly Finding[]
  | { readonly findings: readonly Finding[]; readonly notes: readonly string[] };
