import type { Positions } from "../../types/derived/shapes/inferred-parameters.ts";
import type { ImplementationForm, OutlineSettings } from "../outline/model.ts";

/** What is not as the uses say, because it does not compile. */
export interface DerivedForms {
  /** Types that are aliases of outside ones, with the reasons. */
  readonly aliased: ReadonlyMap<string, string>;
  /** What a value of type `any` is in the target. */
  readonly untyped: "unknown" | "any";
  /** How members are implemented, by the keys of their choices. Default: `direct`, or `forwarded` for members of objects. */
  readonly forms: ReadonlyMap<string, ImplementationForm>;
}

export interface DerivedSettings extends OutlineSettings, DerivedForms {}

/** What is known of the types only when all are derived. */
export interface TypeFacts {
  /** Keys of the types that keep type parameters. */
  readonly generic: ReadonlySet<string>;
  /** Keys of all types of the target. */
  readonly known: ReadonlySet<string>;
  /** Type parameters by which the compiler infers those of functions. */
  readonly inferred: Positions;
}
