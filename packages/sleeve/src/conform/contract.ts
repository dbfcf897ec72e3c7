import type { StandardSchema } from "../layers/guard.ts";
import type { Surface } from "../surface/surface.ts";
import type { EqualityOptions } from "./compare.ts";
import type { ImplementationInput } from "./implementation.ts";
import type { Law } from "./law.ts";
import type { ArgumentsOf } from "./operations.ts";
import type { SurfaceDocument } from "./surface-document.ts";

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

type MethodsOf<Target> = {
  [Key in keyof Target]-?: NonNullable<Target[Key]> extends (...args: never[]) => unknown ? Key : never;
}[keyof Target];

type ResultOf<Method> =
  NonNullable<Method> extends (...args: never[]) => infer Result ? Awaited<Result> : never;

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
  /** Statements about all values or all sequences of calls, by name. */
  readonly laws?: Readonly<Record<string, Law<Target>>>;
  /** Calls that must fail, by name. */
  readonly refusals?: Readonly<Record<string, ExpectedRefusal<Target>>>;
  /** Classes of the errors that may reach the client. Default: any. */
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
  readonly laws: Readonly<Record<string, Law<Target>>>;
  readonly refusals: Readonly<Record<string, ExpectedRefusal<Target>>>;
  /** `undefined` if any error is allowed. */
  readonly errors: readonly ErrorClass[] | undefined;
}

/** The contract of a target that `Target` extends. */
export type ExtendedContract<Target> = Omit<Contract<Target>, "reference" | "equal">;

/**
 * Defines what every implementation of a target must do.
 *
 * A name is enough: the members are then those of the implementation, and wrappers are held to the laws of
 * their kind. A reference defines the result of every call.
 *
 * @example
 * import fc from "fast-check";
 * import { closeTo, contract, law } from "sleeve/conform";
 *
 * interface Depths { metresAt(berth: number): number }
 *
 * export const depths = contract<Depths>("Depths", {
 *   surface: { metresAt: "method" },
 *   examples: {
 *     "berth 4 is dredged to 6.2 m": (table) => closeTo(table.metresAt(4), 6.2, { within: 0.05, unit: "metres" }),
 *   },
 *   laws: {
 *     "no berth is above water": law(fc.integer({ min: 1, max: 24 }), (table, berth) => table.metresAt(berth) > 0),
 *   },
 *   refusals: {
 *     "a berth that does not exist": { call: (table) => table.metresAt(99), error: RangeError },
 *   },
 *   errors: [RangeError],
 * });
 */
export function contract<Target extends object>(
  name: string,
  terms: ContractTerms<Target> = {},
): Contract<Target> {
  const { surface, reference, equal = "value", errors, extends: bases = [] } = terms;
  const all = [...bases, terms];
  const allErrors = all.flatMap((item) => item.errors ?? []);
  return {
    name,
    surface:
      all.reduce<object | undefined>((whole, item) => merge(whole, item.surface), undefined) ?? surface,
    reference,
    equal,
    arguments: Object.assign({}, ...all.map((item) => item.arguments ?? {})),
    results: Object.assign({}, ...all.map((item) => item.results ?? {})),
    examples: Object.assign({}, ...all.map((item) => item.examples ?? {})),
    laws: Object.assign({}, ...all.map((item) => item.laws ?? {})),
    refusals: Object.assign({}, ...all.map((item) => item.refusals ?? {})),
    errors: errors || bases.some((base) => base.errors) ? allErrors : undefined,
  };
}

/** Merges two surfaces. A document has more information than names and kinds, so it stays a document. */
function merge(one: object | undefined, other: object | undefined): object | undefined {
  if (!one || !other) return other ?? one;
  const [left, right] = [one, other].map((item) => item as Partial<SurfaceDocument>);
  if (!left?.members && !right?.members) return { ...one, ...other };
  const name = right?.name ?? left?.name;
  return { name, members: { ...membersOf(one), ...membersOf(other) } };
}

function membersOf(surface: object): SurfaceDocument["members"] {
  const { members } = surface as Partial<SurfaceDocument>;
  if (members) return members;
  return Object.fromEntries(Object.entries(surface).map(([key, kind]) => [key, { kind }]));
}
