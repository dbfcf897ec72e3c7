import { check } from "../../checks/contract-checks.ts";
import { untyped } from "../../implementation.ts";
import type { Context, ContractCheck, Wrapper } from "../../types.ts";
import { changed, wrapInput } from "../wrap-input.ts";
import { orderFindings, reentryFindings, stopFindings, undoFailureFindings, undoFindings } from "./laws.ts";
import type { FacadeOfOptions } from "./options.ts";
import { FacadeRuns } from "./runs.ts";

/**
 * Declares an implementation to be a facade. Each operation must run its steps in order, stop when one fails,
 * undo completed steps in reverse, and fail; no subsystem may call it. Every step of every operation is made
 * to fail once.
 *
 * The arguments should lead to successful operations: give them in the contract's `arguments`.
 */
export function facadeOf<Target extends object, Subsystems extends object>(
  options: FacadeOfOptions<Target, Subsystems>,
): Wrapper<Target> {
  return {
    ...wrapInput(untyped(options.subsystems), options),
    kind: "facade",
    checks: (context) => facadeChecks(options, context),
    altered: (change) => facadeOf<Target, Subsystems>({ ...options, wrap: changed(options.wrap, change) }),
  };
}

function facadeChecks<Target extends object, Subsystems extends object>(
  options: FacadeOfOptions<Target, Subsystems>,
  context: Context<object>,
): readonly ContractCheck[] {
  const runs = new FacadeRuns(options, context);
  return [
    check("runs its steps in order", () => runs.findings(orderFindings)),
    check("stops when a step fails, and fails too", () => runs.findings(stopFindings)),
    check("undoes in reverse", () => runs.findings(undoFindings)),
    check("fails, and undoes the rest, when undoing a step fails", () => runs.findings(undoFailureFindings)),
    check("is called by none of its subsystems", () => runs.findings(reentryFindings)),
  ];
}
