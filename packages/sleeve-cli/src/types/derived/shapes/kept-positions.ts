import type { DerivedType } from "./derived-type.ts";
import { mapShape, type Shape } from "./shape.ts";

type Positions = ReadonlyMap<string, readonly number[]>;

/**
 * Returns the positions of the type parameters that each type needs, because its members mention them or callers
 * write arguments for them.
 */
export function keptPositions(
  types: readonly DerivedType[],
  writtenArguments: ReadonlyMap<string, readonly number[]>,
): Positions {
  const kept = new Map<string, readonly number[]>();
  for (let isChanged = true; isChanged; ) {
    isChanged = false;
    for (const { key, parameters, shape, bases, alias } of types) {
      const positions = parameters.flatMap(({ name }, position) =>
        alias !== undefined ||
        position < Math.max(0, ...(writtenArguments.get(key) ?? [])) ||
        [shape, ...bases].some((part) => mentions(part, name, kept))
          ? [position]
          : [],
      );
      if (positions.length === (kept.get(key)?.length ?? 0)) continue;
      kept.set(key, positions);
      isChanged = true;
    }
  }
  return kept;
}

/** Whether a shape mentions a type parameter, other than as an argument of a type that does not need it. */
function mentions(shape: Shape, name: string, kept: Positions): boolean {
  let isMentioned = false;
  mapShape(shape, (part) => {
    if (part.kind === "parameter") isMentioned ||= part.name === name;
    if (part.kind !== "reference") return undefined;
    const args = (kept.get(part.key) ?? []).flatMap((position) => part.args[position] ?? []);
    isMentioned ||= args.some((argument) => mentions(argument, name, kept));
    // The arguments of a reference are looked into above.
    return part;
  });
  return isMentioned;
}
