import type { ValueSchema } from "./values/schema.ts";

/**
 * A surface with its signatures, as a JSON document: what `sleeve surface` prints for a TypeScript type.
 * Arguments of generated calls are generated from it, and results are checked against it.
 */
export interface SurfaceDocument {
  readonly name: string;
  readonly members: Readonly<Record<string, MemberDocument>>;
}

export interface MemberDocument {
  /** `method` or `property`. */
  readonly kind: string;
  readonly optional?: boolean;
  readonly readonly?: boolean;
  /** First line of the member's documentation. */
  readonly doc?: string;
  /** For a method, one for each overload. */
  readonly signatures?: readonly SignatureDocument[];
  /** For a property, its value. */
  readonly value?: ValueSchema;
}

export interface SignatureDocument {
  readonly parameters: readonly ParameterDocument[];
  readonly result: ValueSchema;
}

export interface ParameterDocument {
  readonly name: string;
  readonly schema: ValueSchema;
  readonly optional?: boolean;
  readonly rest?: boolean;
}

export function isSurfaceDocument(surface: object): surface is SurfaceDocument {
  const { name, members } = surface as Partial<SurfaceDocument>;
  return typeof name === "string" && typeof members === "object";
}
