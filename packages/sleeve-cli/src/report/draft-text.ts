import type { ByHand, Draft } from "../draft/draft.ts";
import { placeText } from "../place.ts";
import { type Colours, columns, counted } from "./terminal.ts";

const PLACES_SHOWN = 3;

/** A draft for the terminal: what it offers, its files as they would be, and what is left to do by hand. */
export function draftText(draft: Draft, isWritten: boolean, colours: Colours): string {
  const { outside, members, groups, types, callers, since, files, byHand, configEntries } = draft;
  const { bold, dim, green } = colours;
  const offers = [
    `${counted(members.length, "member")}${groups.length > 0 ? ` in ${counted(groups.length, "group")}` : ""}`,
    ...(types.length > 0 ? [counted(types.length, "type")] : []),
  ];
  const fresh = files.filter(({ state }) => state === "new" || state === "added to");
  if (since && members.length === 0 && byHand.length === 0 && fresh.length === 0)
    return green(`Nothing is new: every caller of ${outside} uses its target.\n`);
  const isInUse = since !== null && since.added.length > 0;
  const shown = isInUse ? files.filter(({ role }) => role === "target" || role === "adapter") : fresh;
  const lines = [
    bold(`${draft.target.split("#")[1]}, a target in the place of ${outside}: ${offers.join(" and ")}`),
    dim(
      `Checked by the compiler with ${counted(callers.files, "importing file")} moved to it${
        draft.names === "same" ? ", names kept" : `, ${counted(callers.references, "reference")} renamed`
      }.`,
    ),
    "",
    ...sinceLines(since, colours),
    ...columns(
      files.map(({ file, role, state }) => [file, role, STATES[state]]),
      "  ",
    ),
    "",
    ...(isWritten
      ? []
      : shown
          .filter(({ role }) => role !== "surface")
          .flatMap(({ file, text }) => [
            bold(isInUse ? `${file}, what is new` : file),
            ...text
              .trimEnd()
              .split("\n")
              .map((line) => `  ${line}`),
            "",
          ])),
    ...byHandLines(byHand, colours),
    ...(configEntries === null
      ? []
      : [bold("Add to the config by hand:"), ...configEntries.split("\n").map((line) => `  ${line}`), ""]),
  ];
  if (isWritten)
    lines.push(green(`Written. Read it over; then \`sleeve move ${outside}\` moves the callers.`));
  else if (isInUse) lines.push("Nothing is written over: take what is new over by hand.");
  else if (fresh.length === 0) lines.push("Everything is there already; nothing would be written.");
  else lines.push("Nothing is written yet; --write writes it.");
  return `${lines.join("\n")}\n`;
}

const STATES = {
  new: "new",
  "added to": "entries added",
  "the same": "there already",
  kept: "there already, left as it is",
} as const;

function sinceLines(since: Draft["since"], { yellow, dim }: Colours): string[] {
  if (!since) return [];
  const { added, gone } = since;
  if (added.length === 0 && gone.length === 0)
    return [dim("Nothing has changed in what is used since the target was drafted."), ""];
  return [
    ...(added.length > 0
      ? [
          yellow(
            `New since the target was drafted: ${added.join(", ")}. Add what you need of it to the target and its adapter.`,
          ),
        ]
      : []),
    ...(gone.length > 0 ? [dim(`No longer asked of the outside: ${gone.join(", ")}.`)] : []),
    "",
  ];
}

/** What is to be done is told once for all that it is to be done to. */
function byHandLines(byHand: readonly ByHand[], { bold, yellow, dim }: Colours): string[] {
  const remedies = [...new Set(byHand.map(({ remedy }) => remedy))];
  return remedies.flatMap((remedy) => [
    bold("By hand:"),
    ...byHand
      .filter((each) => each.remedy === remedy)
      .flatMap(({ what, why, places }) => [
        `  ${yellow(what)}: ${why}`,
        ...(places.length > 0 ? [dim(`    ${placesText(places)}`)] : []),
      ]),
    `  ${remedy}`,
    "",
  ]);
}

function placesText(places: ByHand["places"]): string {
  const shown = places.slice(0, PLACES_SHOWN).map(placeText).join(", ");
  const rest = places.length - PLACES_SHOWN;
  return rest > 0 ? `${shown} and ${counted(rest, "more place")}` : shown;
}
