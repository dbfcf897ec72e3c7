import { inwardImports } from "../border.ts";
import type { Rule } from "../subject.ts";

/** Files that a facade stands before, and that import it all the same. */
export const subsystems: Rule = ({ project, exported, isFacade }) => {
  const source = isFacade ? project.sourceAt(exported.path) : undefined;
  return source ? inwardImports(project, source) : [];
};
