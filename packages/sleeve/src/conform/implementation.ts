/** Something that a contract is run over: a way to make it and, where it holds anything, a way to let go of it. */
export interface Implementation<Target> {
  readonly create: () => Target | Promise<Target>;
  readonly release?: (implementation: Target) => unknown;
}

/** Implementations by name. A function stands for one that needs no release. */
export type Implementations<Target> = Readonly<
  Record<string, Implementation<Target> | (() => Target | Promise<Target>)>
>;

/** Makes an implementation, lends it out, and releases it whatever happens. */
export async function lend<Target, Result>(
  given: Implementations<Target>[string],
  use: (implementation: Target) => Promise<Result>,
): Promise<Result> {
  const { create, release } = typeof given === "function" ? { create: given, release: undefined } : given;
  const implementation = await create();
  try {
    return await use(implementation);
  } finally {
    await release?.(implementation);
  }
}
