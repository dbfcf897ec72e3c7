import type { Draft, ManualStep } from "../documents/draft-document.ts";
import { exportParts, placeText } from "../place.ts";
import { printableDocument } from "../printable.ts";
import { dependenceLines, independenceLines } from "./draft-independence.ts";
import { type Colours, columns, counted } from "./terminal.ts";

const PLACES_SHOWN = 3;

/** Formats a draft for the terminal: its members, its files, and the manual steps. */
export function draftText(drafted: Draft, isWritten: boolean, colours: Colours): string {
  const draft = printableDocument(drafted);
  const { outside, members, groups, types, callers, since, files, manualSteps, configEntries } = draft;
  const { bold, dim, green } = colours;
  const offers = [
    `${counted(members.length, "member")}${groups.length > 0 ? ` in ${counted(groups.length, "group")}` : ""}`,
    ...(types.length > 0 ? [counted(types.length, "type")] : []),
  ];
  const fresh = files.filter(({ state }) => state === "new" || state === "added to");
  if (since && members.length === 0 && manualSteps.length === 0 && fresh.length === 0)
    return green(`No changes: every caller of ${outside} uses its target.\n`);
  const isInUse = since !== null && since.added.length > 0;
  const shown = isInUse ? files.filter(({ role }) => role === "target" || role === "adapter") : fresh;
  const lines = [
    bold(`${exportParts(draft.target)[1]} replaces ${outside}: ${offers.join(" and ")}`),
    dim(
      `Compiled with ${counted(callers.files, "importing file")} moved to it${
        draft.names === "same" ? ", names kept" : `, ${counted(callers.references, "reference")} renamed`
      }.`,
    ),
    "",
    ...dependenceLines(draft, colours),
    ...sinceLines(since, colours),
    ...columns(
      files.map(({ file, role, state }) => [file, role, STATES[state]]),
      "  ",
    ),
    "",
    ...(isWritten ? [] : shown.flatMap((file) => sourceLines(file, isInUse, bold))),
    ...manualStepLines(manualSteps, colours),
    ...independenceLines(draft, colours),
    ...scenarioLines(draft, colours),
    ...(configEntries === null ? [] : [bold("Add to the config manually:"), ...indented(configEntries), ""]),
  ];
  if (isWritten)
    lines.push(green(`Written. Review it; then run \`sleeve move ${outside}\` to move the callers.`));
  else lines.push(unwrittenText(isInUse, fresh.length));
  return `${lines.join("\n")}\n`;
}

function unwrittenText(isInUse: boolean, freshFiles: number): string {
  if (isInUse) return "Existing files are kept: add the new members manually.";
  return freshFiles === 0
    ? "Everything exists already; nothing would be written."
    : "Dry run: pass --write to write the files.";
}

/** The code of a file. */
function sourceLines(
  { file, text }: Draft["files"][number],
  isInUse: boolean,
  bold: Colours["bold"],
): readonly string[] {
  return [bold(isInUse ? `${file}, additions` : file), ...indented(text.trimEnd()), ""];
}

function indented(text: string): readonly string[] {
  return text.split("\n").map((line) => `  ${line}`);
}

/** The scenarios of the contract, and the uses that have none. */
function scenarioLines({ scenarios, files, outside }: Draft, { bold, dim, yellow }: Colours): string[] {
  const contract = files.find(({ role, state }) => role === "contract" && state === "new");
  if (!scenarios || !contract || scenarios.written + scenarios.leftOut.length === 0) return [];
  const { written, isRun, leftOut } = scenarios;
  return [
    bold("Contract:"),
    `  ${counted(written, "scenario")} from callers${
      isRun ? `, run with ${outside}` : dim(", not run; --run-scenarios records their results")
    }`,
    ...leftOut.map(({ title, why }) => `  ${yellow("left out")} ${title}: ${why}`),
    "",
  ];
}

const STATES = {
  new: "new",
  "added to": "entries added",
  "the same": "there already",
  kept: "exists, kept",
} as const;

function sinceLines(since: Draft["since"], { yellow, dim }: Colours): string[] {
  if (!since) return [];
  const { added, gone } = since;
  if (added.length === 0 && gone.length === 0)
    return [dim("The project's use has not changed since the target was drafted."), ""];
  return [
    ...(added.length > 0
      ? [
          yellow(
            `New since the target was drafted: ${added.join(", ")}. Add what you need to the target and its adapter.`,
          ),
        ]
      : []),
    ...(gone.length > 0 ? [dim(`No longer used: ${gone.join(", ")}.`)] : []),
    "",
  ];
}

/** Each remedy is printed once, after everything it applies to. */
function manualStepLines(manualSteps: readonly ManualStep[], { bold, yellow, dim }: Colours): string[] {
  const remedies = [...new Set(manualSteps.map(({ remedy }) => remedy))];
  return remedies.flatMap((remedy) => [
    bold("Manual steps:"),
    ...manualSteps
      .filter((manualStep) => manualStep.remedy === remedy)
      .flatMap(({ what, why, places }) => [
        `  ${yellow(what)}: ${why}`,
        ...(places.length > 0 ? [dim(`    ${placesText(places)}`)] : []),
      ]),
    `  ${remedy}`,
    "",
  ]);
}

function placesText(places: ManualStep["places"]): string {
  const shown = places.slice(0, PLACES_SHOWN).map(placeText).join(", ");
  const unlisted = places.length - PLACES_SHOWN;
  return unlisted > 0 ? `${shown} and ${counted(unlisted, "more place")}` : shown;
}
