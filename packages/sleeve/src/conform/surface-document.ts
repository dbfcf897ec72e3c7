import type { ValueSchema } from "./schema.ts";

/**
 * A surface with its signatures, as a JSON document: what `sleeve surface` prints of a TypeScript type. The arguments of
 * generated calls are made from it, and results are held against it.
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
  /** What the documentation of the member says, in its first line. */
  readonly doc?: string;
  /** Of a method: one for each overload. */
  readonly signatures?: readonly SignatureDocument[];
  /** Of a property: what it holds. */
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
