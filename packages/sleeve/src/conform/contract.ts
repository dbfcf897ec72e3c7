import type { StandardSchema } from "../layers/guard.ts";
import type { Surface } from "../surface/surface.ts";
import type { EqualityOptions } from "./compare.ts";
import type { Given } from "./implementation.ts";
import type { Law } from "./law.ts";
import type { ArgumentsOf } from "./operations.ts";
import type { SurfaceDocument } from "./surface-document.ts";

/** Runs over one implementation and throws, rejects or gives `false` where that falls short. */
export type Example<Target> = (implementation: Target) => unknown;

/** A call that has to fail, and with which class of error. */
export interface Refusal<Target> {
  readonly call: (implementation: Target) => unknown;
  // An error class may have any constructor; only what it makes matters here.
  readonly error: ErrorClass;
}

export type ErrorClass = abstract new (...args: never[]) => Error;

/** What the results of a member are like: a Standard Schema, or a statement that is true of them. */
export type ResultCheck<Result> = StandardSchema | ((result: Result) => boolean);

type MethodsOf<Target> = {
  [Key in keyof Target]-?: NonNullable<Target[Key]> extends (...args: never[]) => unknown ? Key : never;
}[keyof Target];

type ResultOf<Method> =
  NonNullable<Method> extends (...args: never[]) => infer Result ? Awaited<Result> : never;

/** What a contract says, all of it optional. */
export interface Terms<Target> {
  /**
   * The members: by hand, or as `sleeve surface` prints them from the TypeScript type. Where there is none they are read from
   * the reference or from the implementation itself.
   */
  readonly surface?: Surface<Target> | SurfaceDocument;
  /** One that is known to be right. Every other has to answer as it does, and to fail with errors of the same classes. */
  readonly reference?: Given<Target>;
  /** What counts as the same answer as the reference's, or a model's: the same value, unless given. See {@link EqualityOptions}. */
  readonly equal?: NonNullable<EqualityOptions["equal"]>;
  /**
   * By member, what makes the arguments of generated calls, where the surface does not tell or tells too little. `"()"` is the
   * call of a target that is a function itself.
   */
  readonly arguments?: { readonly [Key in MethodsOf<Target> | "()"]?: ArgumentsOf };
  /** By member, what its results are like. */
  readonly results?: { readonly [Key in MethodsOf<Target>]?: ResultCheck<ResultOf<Target[Key]>> };
  /** By name, each a statement of what one call does. */
  readonly examples?: Readonly<Record<string, Example<Target>>>;
  /** By name, each a statement of what holds for all values, or for all sequences of calls. */
  readonly laws?: Readonly<Record<string, Law<Target>>>;
  /** By name, each a call that has to fail. */
  readonly refusals?: Readonly<Record<string, Refusal<Target>>>;
  /** The classes of the errors that may escape to the client. */
  readonly errors?: readonly ErrorClass[];
  /** Contracts that hold too, of what this target also is. Their references do not count. */
  readonly extends?: readonly ExtendedContract<Target>[];
}

/** What every implementation of a target must do. */
export interface Contract<Target> {
  readonly name: string;
  readonly surface: object | undefined;
  readonly reference: Given<Target> | undefined;
  readonly equal: NonNullable<EqualityOptions["equal"]>;
  readonly arguments: Readonly<Record<string, ArgumentsOf>>;
  readonly results: Readonly<Record<string, ResultCheck<never>>>;
  readonly examples: Readonly<Record<string, Example<Target>>>;
  readonly laws: Readonly<Record<string, Law<Target>>>;
  readonly refusals: Readonly<Record<string, Refusal<Target>>>;
  /** `undefined` where nothing was said of errors. */
  readonly errors: readonly ErrorClass[] | undefined;
}

/** A contract of something that `Target` is as well. */
export type ExtendedContract<Target> = Omit<Contract<Target>, "reference" | "equal">;

/**
 * States what every implementation of a target must do, once for all of them. A name is enough: the members are then those
 * of the implementation, and wrappers have the laws of their kind. With a reference it says what every call must answer.
 *
 * @example
 * import fc from "fast-check";
 * import { contract, law, near } from "sleeve/conform";
 *
 * interface Depths { metresAt(berth: number): number }
 *
 * export const depths = contract<Depths>("Depths", {
 *   surface: { metresAt: "method" },
 *   examples: {
 *     "berth 4 is dredged to 6.2 m": (table) => near(table.metresAt(4), 6.2, { within: 0.05, unit: "metres" }),
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
export function contract<Target extends object>(name: string, terms: Terms<Target> = {}): Contract<Target> {
  const { surface, reference, equal = "value", errors, extends: bases = [] } = terms;
  const all = [...bases, terms];
  const allErrors = all.flatMap((each) => each.errors ?? []);
  return {
    name,
    surface:
      all.reduce<object | undefined>((whole, each) => joined(whole, each.surface), undefined) ?? surface,
    reference,
    equal,
    arguments: Object.assign({}, ...all.map((each) => each.arguments ?? {})),
    results: Object.assign({}, ...all.map((each) => each.results ?? {})),
    examples: Object.assign({}, ...all.map((each) => each.examples ?? {})),
    laws: Object.assign({}, ...all.map((each) => each.laws ?? {})),
    refusals: Object.assign({}, ...all.map((each) => each.refusals ?? {})),
    errors: errors || bases.some((each) => each.errors) ? allErrors : undefined,
  };
}

/** Two surfaces as one. A document tells more than names and kinds do, and stays one. */
function joined(one: object | undefined, other: object | undefined): object | undefined {
  if (!one || !other) return other ?? one;
  const [left, right] = [one, other].map((each) => each as Partial<SurfaceDocument>);
  if (!left?.members && !right?.members) return { ...one, ...other };
  const name = right?.name ?? left?.name;
  return { name, members: { ...membersOf(one), ...membersOf(other) } };
}

function membersOf(surface: object): SurfaceDocument["members"] {
  const { members } = surface as Partial<SurfaceDocument>;
  if (members) return members;
  return Object.fromEntries(Object.entries(surface).map(([key, kind]) => [key, { kind }]));
}
