import type { Checker } from "../../compiler/typescript.ts";
import { filesReachedFrom } from "../../project/affected-files.ts";
import type { OpenProject } from "../../project/open-project.ts";
import { UsedMembers } from "../../uses/members/used-members.ts";
import type { OutsideUses } from "./outside-uses.ts";
import { memberFilterOf } from "./outside-words.ts";

/** Returns the uses of a module's members in the files that it affects. */
export function usedMembersIn(
  project: OpenProject,
  outside: string,
  uses: OutsideUses,
  cached: (checker: Checker) => Checker = (checker) => checker,
  /** Offsets of statements that do not count, by path. */
  skipped: ReadonlyMap<string, ReadonlySet<number>> = new Map(),
): UsedMembers {
  const usedMembers = new UsedMembers(memberFilterOf(project, outside));
  const importing = uses.files.map(({ source }) => source.path);
  for (const path of filesReachedFrom(project, importing))
    usedMembers.take(project.program, path, cached, skipped.get(path));
  for (const { symbol, references } of uses.exports) {
    if (!symbol) continue;
    for (const { node, source, kind } of references) {
      const checker = project.program.checkerFor(source.path);
      if (checker && kind !== "type") usedMembers.use(symbol, node, cached(checker));
    }
  }
  return usedMembers;
}
