import type { Check } from "./check.ts";
import type { Context } from "./context.ts";
import type { FindingName } from "./finding.ts";
import { isPromise } from "./schema.ts";

/** Makes something; a promise of it is waited for. */
export type Factory<Made> = () => Made | Promise<Made>;

/** Something that a contract is run over: a way to make it and, where it holds anything, a way to let go of it. */
export interface Implementation<Target> {
  readonly create: Factory<Target>;
  release?(implementation: Target): unknown;
  /** Findings that are meant, each with the reason; they are told, and do not count. */
  readonly waives?: Waived;
}

export type Waived = { readonly [Name in FindingName]?: string };

/** An implementation that is a wrapper of a kind, with the laws of that kind. Made by `decoratorOf` and its like. */
export interface Wrapper<Target> extends Implementation<Target> {
  readonly kind: "decorator" | "proxy" | "adapter" | "facade" | "bridge" | "cache" | "guard" | "stand-in";
  /** What is checked of it beside the contract. */
  checks(context: Context<object>): readonly Check[];
  /** The same wrapper with a change made to what its factory gives, to see whether the checks notice. */
  altered(change: (wrapper: object) => object): Wrapper<Target>;
  /** Something to learn the members from: the subject, where the wrapper has all of them from it. */
  readonly subject?: Implementation<object>;
}

/** Implementations by name. A function stands for one that needs no release. */
export type Implementations<Target> = Readonly<Record<string, Given<Target>>>;

export type Given<Target> = Implementation<Target> | Wrapper<Target> | Factory<Target>;

export function implementationOf<Target>(given: Given<Target>): Implementation<Target> | Wrapper<Target> {
  return typeof given === "function" ? { create: given } : given;
}

/** An implementation of whatever it is, for what asks nothing of its type. It is only ever lent what it made itself. */
export function untyped<Target>(given: Given<Target>): Implementation<object> {
  return implementationOf(given) as unknown as Implementation<object>;
}

export function isWrapper<Target>(given: Implementation<Target>): given is Wrapper<Target> {
  return typeof (given as Partial<Wrapper<Target>>).checks === "function";
}

/** Goes on with what was made, at once where it was made at once. */
export function whenMade<Made, Next>(
  made: Made | Promise<Made>,
  next: (made: Made) => Next | Promise<Next>,
): Next | Promise<Next> {
  return isPromise(made) ? (made as Promise<Made>).then(next) : next(made as Made);
}

/** Makes an implementation, lends it out, and releases it whatever happens. */
export async function lend<Target, Result>(
  { create, release }: Implementation<Target>,
  use: (implementation: Target) => Promise<Result>,
): Promise<Result> {
  // What is made at once is used at once: most are, and a sequence of calls is made on each of thousands.
  const made = create();
  const implementation = isPromise(made) ? await made : (made as Target);
  try {
    return await use(implementation);
  } finally {
    await release?.(implementation);
  }
}
