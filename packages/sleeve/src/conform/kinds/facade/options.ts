import type { Factory, Implementation, Suppressions } from "../../types.ts";

/** What one operation of a facade does, as calls of subsystems: `subsystem.member`. */
export interface OperationTerms {
  /** The calls in order. Default: those of a successful run. */
  readonly steps?: readonly string[];
  /** The undoing call of each step. Default: only the order of undoing is checked. */
  readonly undo?: Readonly<Record<string, string>>;
}

export interface FacadeOfOptions<Target, Subsystems extends object> {
  /** Creates the subsystems, or small fakes of them, by name. It is called many times. */
  readonly subsystems: Factory<Subsystems> | Implementation<Subsystems>;
  readonly wrap: (subsystems: Subsystems) => Target | Promise<Target>;
  readonly release?: (facade: Target) => unknown;
  readonly operations?: { readonly [Key in keyof Target]?: OperationTerms };
  readonly suppressions?: Suppressions;
}
