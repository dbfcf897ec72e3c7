import { basename, join, relative } from "node:path";
import type { Draft } from "../documents/draft-document.ts";
import type { Problem } from "../errors.ts";
import type { OutsideUses } from "../isolation/outside/outside-uses.ts";
import { applyEdits } from "../isolation/text-edits.ts";
import type { PlannedText } from "../isolation/verification/verify-writes.ts";
import { editedFile } from "../isolation/writes.ts";
import type { OpenProject } from "../project/open-project.ts";
import type { FileWrite } from "../project/writing/transaction.ts";
import type { VerifiedDraft } from "./attempts.ts";
import { isAmongTests } from "./contract/contract-place.ts";
import type { Plan } from "./plan.ts";

/** A contract is for tests. Beside the target, a build may compile it; tests are built if the project wants that. */
export function builtContractNotes(
  { program, root }: OpenProject,
  { files }: Draft,
  { compilerConfig }: Plan,
): readonly Problem[] {
  const contract = files.find(({ role, state }) => role === "contract" && state === "new");
  const configured = program.configuredProjects().find(({ tsconfig }) => tsconfig === compilerConfig);
  const isBuilt =
    contract &&
    !isAmongTests(contract.file) &&
    configured?.outFolder &&
    program.wouldList(compilerConfig, [join(root, contract.file)]);
  if (!isBuilt) return [];
  return [
    {
      code: "CONTRACT_COMPILED",
      isNote: true,
      message: `${basename(compilerConfig)} compiles ${contract.file} into ${relative(root, configured.outFolder ?? "")}. Exclude \`**/*.contract.*\` from the build, or move the contract to your tests.`,
    },
  ];
}

/** Returns the callers as they are and as `move` would leave them. */
export function movedTexts({ files }: OutsideUses, { moved }: VerifiedDraft): readonly PlannedText[] {
  return files.map(({ source: { path, text } }) => ({
    path,
    before: text,
    after: applyEdits(text, moved.get(path)?.edits ?? []),
  }));
}

/**
 * Returns the callers with the edits of a move.
 *
 * @throws {CliError} `NOT_WRITABLE` for a caller that is not UTF-8
 */
export function editedCallers({ files }: OutsideUses, { moved }: VerifiedDraft): readonly FileWrite[] {
  return files.flatMap(({ source }) => {
    const edits = moved.get(source.path)?.edits ?? [];
    return edits.length > 0 && !source.component ? [editedFile(source, edits)] : [];
  });
}
