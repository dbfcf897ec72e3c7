import { inwardImports } from "../border.ts";
import type { Rule } from "../checked-wrapper.ts";

/** Finds subsystems that import their facade. */
export const subsystems: Rule = ({ project, exported, isFacade }) => {
  const source = isFacade ? project.sourceAt(exported.path) : undefined;
  return source ? inwardImports(project, source) : [];
};
