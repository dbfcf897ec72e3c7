import type { WrapResult } from "../documents/wrap-document.ts";
import { printableDocument } from "../printable.ts";
import { type Colours, counted } from "./terminal.ts";

/** Formats a generated wrapper for the terminal: the file, or its difference from the one on disk. */
export function wrapText(wrapped: WrapResult, isWritten: boolean, colours: Colours): string {
  const { source, name, file, state, text, diff, members, readAsFunctions, refused } =
    printableDocument(wrapped);
  const { bold, dim, green, yellow } = colours;
  const lines = [
    bold(`${name} forwards ${counted(members, "member")} of ${source}`),
    dim(`${file}: ${STATES[state]}`),
    "",
  ];
  const shown = state === "new" ? text : diff;
  if (!isWritten && shown !== "")
    lines.push(
      ...shown
        .trimEnd()
        .split("\n")
        .map((line) => `  ${line}`.trimEnd()),
      "",
    );
  if (readAsFunctions.length > 0)
    lines.push(
      `${counted(readAsFunctions.length, "method is an accessor", "methods are accessors")}, because ${readAsFunctions.length === 1 ? "its types" : "their types"} cannot be written:`,
      ...readAsFunctions.map(({ member, why }) => `  ${member}: ${why}`),
      "",
    );
  if (refused.length > 0)
    lines.push(
      yellow(`${counted(refused.length, "member is", "members are")} left out:`),
      ...refused.map(({ member, why }) => `  ${member}: ${why}`),
      "",
    );
  if (isWritten) lines.push(green(`Written to ${file}.`));
  else if (state === "the same") lines.push(green("The file is up to date."));
  else if (state === "new" || state === "stale")
    lines.push("Nothing was written. Add --write to write the file.");
  return `${lines.join("\n").trimEnd()}\n`;
}

const STATES: Readonly<Record<WrapResult["state"], string>> = {
  new: "a new file",
  "the same": "up to date",
  stale: "the type has changed since it was generated",
  edited: "edited after it was generated",
  kept: "not a generated file",
};
