import type { Move } from "../documents/move-document.ts";
import { placeText } from "../place.ts";
import { printableDocument } from "../printable.ts";
import { type Colours, columns, counted } from "./terminal.ts";

/** Formats a move for the terminal: each file's changes, then totals and what stays. */
export function moveText(move: Move, isWritten: boolean, colours: Colours): string {
  const { outside, adapter, names, files, stays, mentions } = printableDocument(move);
  const { bold, dim, yellow, green } = colours;
  const imports = files.reduce((sum, file) => sum + file.imports, 0);
  const references = files.reduce((sum, file) => sum + file.references, 0);
  const lines = files.flatMap(({ diff }) => [...diffLines(diff, colours), ""]);
  if (files.length > 0) {
    const renamed = names === "new" ? `, with ${counted(references, "reference")}` : ", and no name changed";
    const state = isWritten ? "moved" : "to be moved";
    lines.push(bold(`${counted(imports, "import")} in ${counted(files.length, "file")} ${state}${renamed}`));
    lines.push(dim(`from ${outside} to ${adapter}`));
    lines.push(
      ...columns(
        files.map((file) => [
          file.file,
          counted(file.imports, "import"),
          counted(file.references, "reference"),
        ]),
        "  ",
      ),
      "",
    );
  }
  if (stays.length > 0) {
    lines.push(bold(`${counted(stays.length, "place")} to move manually`));
    lines.push(...stays.map(({ place, why }) => `  ${yellow(placeText(place))}  ${why}`), "");
  }
  if (mentions.length > 0) {
    lines.push(
      dim(`Not imports, and unchanged: ${outside} is named at ${mentions.map(placeText).join(", ")}.`),
      "",
    );
  }
  if (files.length === 0) {
    lines.push(
      stays.length === 0
        ? green(`Nothing to move: only the adapter imports ${outside}.`)
        : "Nothing else to move.",
    );
  } else if (isWritten) lines.push(green("Written. The compiler reports no new error."));
  else lines.push("The compiler reports no new error. Dry run: pass --write to write the changes.");
  return `${lines.join("\n")}\n`;
}

function diffLines(diff: string, { red, green, dim, bold }: Colours): string[] {
  return diff
    .trimEnd()
    .split("\n")
    .map((line) => {
      if (/^(---|\+\+\+) /.test(line)) return bold(line);
      if (line.startsWith("@@")) return dim(line);
      if (line.startsWith("-")) return red(line);
      return line.startsWith("+") ? green(line) : line;
    });
}
