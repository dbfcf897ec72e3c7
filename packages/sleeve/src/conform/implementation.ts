import type { ContractCheck } from "./check.ts";
import type { Context } from "./context.ts";
import type { FindingName } from "./finding.ts";
import { isPromise } from "./schema.ts";

/** Creates an implementation; a promise of it is awaited. */
export type Factory<Made> = () => Made | Promise<Made>;

/** Creates an implementation and, if it holds resources, releases it. */
export interface Implementation<Target> {
  readonly create: Factory<Target>;
  release?(implementation: Target): unknown;
  /** Accepted findings, each with the reason; they are reported and do not fail. */
  readonly suppressions?: Suppressions;
}

export type Suppressions = { readonly [Name in FindingName]?: string };

/** An implementation that is a wrapper, with the laws of its kind. Created by `decoratorOf` and its like. */
export interface Wrapper<Target> extends Implementation<Target> {
  readonly kind: "decorator" | "proxy" | "adapter" | "facade" | "bridge" | "cache" | "guard" | "stand-in";
  /** Further checks besides the contract. */
  checks(context: Context<object>): readonly ContractCheck[];
  /**
   * Returns the same wrapper with a change to what its factory returns, to test whether the checks detect it.
   */
  altered(change: (wrapper: object) => object): Wrapper<Target>;
  /** Creates an object to learn the members from: the subject, if the wrapper has the same members. */
  readonly subject?: Implementation<object>;
}

/** Implementations by name. A function is a factory of one that needs no release. */
export type Implementations<Target> = Readonly<Record<string, ImplementationInput<Target>>>;

export type ImplementationInput<Target> = Implementation<Target> | Wrapper<Target> | Factory<Target>;

export function implementationOf<Target>(
  given: ImplementationInput<Target>,
): Implementation<Target> | Wrapper<Target> {
  return typeof given === "function" ? { create: given } : given;
}

/** An implementation of any type. It is only passed the objects that it created itself. */
export function untyped<Target>(given: ImplementationInput<Target>): Implementation<object> {
  return implementationOf(given) as unknown as Implementation<object>;
}

export function isWrapper<Target>(given: Implementation<Target>): given is Wrapper<Target> {
  return typeof (given as Partial<Wrapper<Target>>).checks === "function";
}

/** Continues with a created object, synchronously if it was created synchronously. */
export function wrapFactory<Made, Next>(
  made: Made | Promise<Made>,
  next: (made: Made) => Next | Promise<Next>,
): Next | Promise<Next> {
  return isPromise(made) ? (made as Promise<Made>).then(next) : next(made as Made);
}

/** Creates an implementation, passes it to `use`, and always releases it. */
export async function withImplementation<Target, Result>(
  { create, release }: Implementation<Target>,
  use: (implementation: Target) => Promise<Result>,
): Promise<Result> {
  // Synchronous where possible, because each of thousands of sequences creates one.
  const made = create();
  const implementation = isPromise(made) ? await made : (made as Target);
  try {
    return await use(implementation);
  } finally {
    await release?.(implementation);
  }
}
