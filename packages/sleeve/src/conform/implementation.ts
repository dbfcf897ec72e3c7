import type { Implementation, ImplementationInput, Wrapper } from "./types.ts";
import { badContract } from "./values/arbitraries.ts";
import { isPromise } from "./values/schema.ts";

/** @throws {SleeveError} BAD_CONTRACT if it is neither a factory nor `{ create }` */
export function implementationOf<Target>(
  given: ImplementationInput<Target>,
): Implementation<Target> | Wrapper<Target> {
  if (typeof given === "function") return { create: given };
  if (typeof (given as Partial<Implementation<Target>> | undefined)?.create === "function") return given;
  throw badContract(
    `${given === null || given === undefined ? String(given) : "An object"} was passed where a function that creates one is expected. Pass \`() => …\`, which returns a new one each time.`,
  );
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
