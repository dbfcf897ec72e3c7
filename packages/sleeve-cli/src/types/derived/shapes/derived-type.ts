import type { Shape, TypeParameterShape } from "./shape.ts";

/** A named type of the target that follows from use. */
export interface DerivedType {
  readonly key: string;
  readonly name: string;
  /** Its name in the outside module. */
  readonly outsideName: string;
  readonly parameters: readonly TypeParameterShape[];
  /** Types of the language that it extends. */
  readonly bases: readonly Shape[];
  readonly shape: Shape;
  readonly doc: string | undefined;
  /** Why it is an alias of the outside type; `undefined` if it follows from use. */
  readonly alias: string | undefined;
}
