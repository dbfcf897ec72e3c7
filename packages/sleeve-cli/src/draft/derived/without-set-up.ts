import type { OutsideUses, UsedExport } from "../../isolation/outside/outside-uses.ts";
import { isWithinSetUp, type SetUp, setUpsIn } from "../../isolation/set-up.ts";

/** The uses of a module that callers keep, and the set-up that its adapter runs. */
export interface UsesApartFromSetUp {
  readonly uses: OutsideUses;
  /** Each distinct statement once. */
  readonly setUps: readonly SetUp[];
  /** Exports that only the set-up uses. */
  readonly setUpExports: readonly UsedExport[];
  /** Offsets of the statements, by path. */
  readonly skipped: ReadonlyMap<string, ReadonlySet<number>>;
}

/** Separates the statements that set a module up; none if nothing else of it is used, because no caller would load it. */
export function withoutSetUp(uses: OutsideUses): UsesApartFromSetUp {
  const byPath = new Map(uses.files.map(({ source, imported }) => [source.path, setUpsIn(imported)]));
  const exports = uses.exports.map((exported) => remainingUses(exported, byPath));
  const remaining = exports.flatMap(({ exported }) => exported ?? []);
  const isValueUsed = remaining.some(({ kinds }) => [...kinds].some((kind) => kind !== "type"));
  if (!isValueUsed) return { uses, setUps: [], setUpExports: [], skipped: new Map() };
  const setUps = new Map([...byPath.values()].flat().map((setUp) => [setUp.key, setUp]));
  return {
    uses: { ...uses, exports: remaining },
    setUps: [...setUps.values()],
    setUpExports: exports.flatMap(({ exported, original }) => (exported ? [] : [original])),
    skipped: new Map([...byPath].map(([path, ofFile]) => [path, new Set(ofFile.map(({ start }) => start))])),
  };
}

/** Returns an export with the uses outside set-up; `undefined` if it has no others. */
function remainingUses(
  original: UsedExport,
  byPath: ReadonlyMap<string, readonly SetUp[]>,
): { readonly original: UsedExport; readonly exported: UsedExport | undefined } {
  const references = original.references.filter(
    ({ source, start }) => !isWithinSetUp(byPath.get(source.path) ?? [], start),
  );
  if (references.length === original.references.length) return { original, exported: original };
  const isExported = original.kinds.has("export");
  if (references.length === 0 && !isExported) return { original, exported: undefined };
  const kinds = new Set([...references.map(({ kind }) => kind), ...(isExported ? ["export" as const] : [])]);
  return { original, exported: { ...original, references, kinds } };
}
