import type { BorderResult, Finding } from "../documents/check-document.ts";
import type { Problem } from "../errors.ts";
import { exportParts } from "../place.ts";
import type { Config } from "../project/config.ts";

/** The outside types and values that an isolated module accepts beyond its border, with the reasons. */
export class Debt {
  readonly #entries: Readonly<Record<string, string>>;
  readonly #found = new Set<string>();

  constructor(entries: Readonly<Record<string, string>> = {}) {
    this.#entries = entries;
  }

  /** Whether a name is accepted, which also counts it as found. */
  accepts(name: string): boolean {
    const isAccepted = Object.hasOwn(this.#entries, name);
    if (isAccepted) this.#found.add(name);
    return isAccepted;
  }

  /** The accepted names that were found. */
  found(): BorderResult<Finding>["debt"] {
    return Object.entries(this.#entries)
      .filter(([name]) => this.#found.has(name))
      .map(([name, reason]) => ({ name, reason }));
  }

  /** Returns a problem for each accepted name that nothing aliases any more. */
  settled(outside: string): readonly Problem[] {
    return Object.keys(this.#entries)
      .filter((name) => !this.#found.has(name))
      .map((name) => ({
        code: "NOT_FOUND",
        message: `The config lists ${name} as debt of ${outside}, but it is no longer aliased, re-exported or asserted. Remove it from \`debt\`.`,
      }));
  }
}

/** Adds a finding to the border with the largest debt, if all debts together exceed the limit. */
export function withDebtLimit(
  borders: readonly BorderResult<Finding>[],
  { maxDebt, isolated = {} }: Config,
): readonly BorderResult<Finding>[] {
  const total = borders.reduce((sum, { debt }) => sum + debt.length, 0);
  if (maxDebt === undefined || total <= maxDebt) return borders;
  const largest = borders.reduce((most, border) => (border.debt.length > most.debt.length ? border : most));
  const file = exportParts(isolated[largest.package]?.adapter ?? largest.files[0] ?? "")[0];
  const finding: Finding = {
    name: "debt",
    member: null,
    place: { file, line: 1, column: 1 },
    expected: `at most ${maxDebt} outside types aliased and values re-exported`,
    found: `${total}, of which ${largest.debt.length} of ${largest.package}`,
    remedy: "Replace some by types of your own, and remove them from `debt` in the config.",
  };
  return borders.map((border) =>
    border === largest ? { ...border, holds: false, findings: [...border.findings, finding] } : border,
  );
}
