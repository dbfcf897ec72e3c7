import type { Implementation, ImplementationInput, Wrapper } from "./types.ts";
import { badContract } from "./values/arbitraries.ts";
import { isPromise } from "./values/schema.ts";

/** @throws {SleeveError} BAD_CONTRACT if it is neither a factory nor `{ create }` */
export function implementationOf<Target>(
  input: ImplementationInput<Target>,
): Implementation<Target> | Wrapper<Target> {
  if (typeof input === "function") return { create: input };
  if (typeof (input as Partial<Implementation<Target>> | undefined)?.create === "function") return input;
  throw badContract(
    `${input === null || input === undefined ? String(input) : "An object"} was passed where a function that creates one is expected. Pass \`() => …\`, which returns a new one each time.`,
  );
}

/** An implementation of any type. It is only passed the objects that it created itself. */
export function untyped<Target>(input: ImplementationInput<Target>): Implementation<object> {
  return implementationOf(input) as unknown as Implementation<object>;
}

export function isWrapper<Target>(input: Implementation<Target>): input is Wrapper<Target> {
  return typeof (input as Partial<Wrapper<Target>>).checks === "function";
}

/** Continues with a created object, synchronously if it was created synchronously. */
export function wrapFactory<Made, Next>(
  instance: Made | Promise<Made>,
  next: (made: Made) => Next | Promise<Next>,
): Next | Promise<Next> {
  return isPromise(instance) ? (instance as Promise<Made>).then(next) : next(instance as Made);
}

/** Creates an implementation, passes it to `use`, and always releases it. */
export async function withImplementation<Target, Result>(
  { create, release }: Implementation<Target>,
  use: (implementation: Target) => Promise<Result>,
): Promise<Result> {
  // Synchronous where possible, because each of thousands of sequences creates one.
  const instance = create();
  const implementation = isPromise(instance) ? await instance : (instance as Target);
  try {
    return await use(implementation);
  } finally {
    await release?.(implementation);
  }
}
