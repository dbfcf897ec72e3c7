import type { SurfaceDocument } from "./surface-document.ts";
import type { Contract, ContractTerms } from "./types.ts";

/**
 * Defines what every implementation of a target must do.
 *
 * A name is enough: the members are then those of the implementation, and wrappers are held to the laws of
 * their kind. A reference defines the result of every call.
 *
 * @example
 * import fc from "fast-check";
 * import { closeTo, contract, law } from "sleeve/conform";
 *
 * interface Depths { metresAt(berth: number): number }
 *
 * export const depths = contract<Depths>("Depths", {
 *   surface: { metresAt: "method" },
 *   examples: {
 *     "berth 4 is dredged to 6.2 m": (table) => closeTo(table.metresAt(4), 6.2, { within: 0.05, unit: "metres" }),
 *   },
 *   laws: {
 *     "no berth is above water": law(fc.integer({ min: 1, max: 24 }), (table, berth) => table.metresAt(berth) > 0),
 *   },
 *   refusals: {
 *     "a berth that does not exist": { call: (table) => table.metresAt(99), error: RangeError },
 *   },
 *   errors: [RangeError],
 * });
 */
export function contract<Target extends object>(
  name: string,
  terms: ContractTerms<Target> = {},
): Contract<Target> {
  const { surface, reference, equal = "value", errors, extends: bases = [] } = terms;
  const termLists = [...bases, terms];
  const allErrors = termLists.flatMap((item) => item.errors ?? []);
  return {
    name,
    surface:
      termLists.reduce<object | undefined>((merged, item) => merge(merged, item.surface), undefined) ??
      surface,
    reference,
    equal,
    arguments: Object.assign({}, ...termLists.map((item) => item.arguments ?? {})),
    results: Object.assign({}, ...termLists.map((item) => item.results ?? {})),
    scenarios: Object.assign({}, ...termLists.map((item) => item.scenarios ?? {})),
    generated: termLists.every((item) => item.generated === undefined)
      ? undefined
      : termLists.flatMap((item) => item.generated ?? namesIn(item.surface)),
    examples: Object.assign({}, ...termLists.map((item) => item.examples ?? {})),
    laws: Object.assign({}, ...termLists.map((item) => item.laws ?? {})),
    refusals: Object.assign({}, ...termLists.map((item) => item.refusals ?? {})),
    errors: errors || bases.some((base) => base.errors) ? allErrors : undefined,
  };
}

function namesIn(surface: object | undefined): readonly PropertyKey[] {
  return surface ? Reflect.ownKeys(membersOf(surface)) : [];
}

/** Merges two surfaces. A document has more information than names and kinds, so it stays a document. */
function merge(inherited: object | undefined, added: object | undefined): object | undefined {
  if (!inherited || !added) return added ?? inherited;
  const [left, right] = [inherited, added].map((item) => item as Partial<SurfaceDocument>);
  if (!left?.members && !right?.members) return { ...inherited, ...added };
  const name = right?.name ?? left?.name;
  return { name, members: { ...membersOf(inherited), ...membersOf(added) } };
}

function membersOf(surface: object): SurfaceDocument["members"] {
  const { members } = surface as Partial<SurfaceDocument>;
  if (members) return members;
  return Object.fromEntries(Object.entries(surface).map(([key, kind]) => [key, { kind }]));
}
