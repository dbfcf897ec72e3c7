import { mapShape, type Shape, type SignatureShape, someShape } from "./shape.ts";

/** Positions of type parameters, by the keys of the types that declare them. */
export type Positions = ReadonlyMap<string, ReadonlySet<number>>;

/**
 * Returns the type parameters by which the compiler infers those of functions: in `check<T>(value: unknown, kind:
 * Kind<T>): value is T`, the parameter of `Kind`. A type whose used members do not mention such a parameter needs
 * another one that does.
 */
export function inferredParameters(
  shapes: readonly Shape[],
  types: readonly {
    readonly key: string;
    readonly shape: Shape;
    readonly parameters: readonly { readonly name: string }[];
  }[],
): Positions {
  const positions = new Map<string, Set<number>>();
  const pending: { readonly key: string; readonly position: number }[] = [];
  const add = (key: string, position: number): void => {
    const known = positions.get(key) ?? new Set<number>();
    if (known.has(position)) return;
    positions.set(key, known.add(position));
    pending.push({ key, position });
  };
  for (const shape of [...shapes, ...types.map((type) => type.shape)])
    someShape(shape, (part) => {
      const signatures = part.kind === "function" ? part.signatures : [];
      const calls = part.kind === "object" ? [...(part.calls ?? []), ...(part.constructs ?? [])] : [];
      for (const signature of [...signatures, ...calls]) inferredIn(signature, add);
      return false;
    });
  for (let next = pending.pop(); next; next = pending.pop()) {
    const { key, position } = next;
    const type = types.find((candidate) => candidate.key === key);
    const name = type?.parameters[position]?.name;
    if (type && name !== undefined) argumentsIn(type.shape, name, add);
  }
  return positions;
}

function inferredIn(
  { typeParameters, parameters }: SignatureShape,
  add: (key: string, position: number) => void,
): void {
  for (const { name } of typeParameters) {
    const isDirect = parameters.some(({ shape }) => mentionsDirectly(shape, name));
    if (isDirect) continue;
    for (const { shape } of parameters) argumentsIn(shape, name, add);
  }
}

/** Whether a shape mentions a type parameter other than as an argument of a named type. */
function mentionsDirectly(shape: Shape, name: string): boolean {
  let isMentioned = false;
  mapShape(shape, (part) => {
    if (part.kind === "parameter") isMentioned ||= part.name === name;
    return part.kind === "reference" ? part : undefined;
  });
  return isMentioned;
}

/** Adds the positions at which named types take a type parameter as it is. */
function argumentsIn(shape: Shape, name: string, add: (key: string, position: number) => void): void {
  someShape(shape, (part) => {
    if (part.kind !== "reference") return false;
    part.args.forEach((argument, position) => {
      if (argument.kind === "parameter" && argument.name === name) add(part.key, position);
    });
    return false;
  });
}
