import type { AssessedDifference, Drift } from "../documents/drift-document.ts";
import type { Drifted } from "../drift/command.ts";
import { placeText } from "../place.ts";
import { printableDocument } from "../printable.ts";
import { type Colours, counted } from "./terminal.ts";

const SHOWN = 3;

/** Formats drift for the terminal, module by module, breaking differences first. */
export function driftText(found: Pick<Drifted, "drifts" | "recorded">, colours: Colours): string {
  const { drifts, recorded } = printableDocument(found);
  const { bold, green, dim } = colours;
  if (recorded) {
    if (recorded.length === 0) return "Nothing recorded: the project imports no installed outside module.\n";
    const names = recorded.map(({ module, version }) => `  ${module}  ${dim(version ?? "")}`.trimEnd());
    return [
      bold(`Recorded the surfaces of ${counted(recorded.length, "outside module")}, as used:`),
      ...names,
      "",
    ].join("\n");
  }
  const drifted = drifts.filter(({ differences }) => differences.length > 0);
  const lines = drifted.flatMap((drift) => [...moduleLines(drift, colours), ""]);
  const broken = drifts.filter(({ isBreaking }) => isBreaking).length;
  const compared = counted(drifts.length, "outside module");
  if (broken > 0)
    lines.push(colours.red(`${compared} compared with the record: ${broken} would break the project.`));
  else if (drifted.length > 0)
    lines.push(green(`${compared} compared with the record: no breaking difference in what is used.`));
  else lines.push(green(`${compared} compared with the record: no difference in what is used.`));
  return `${lines.join("\n")}\n`;
}

function moduleLines({ module, recorded, now, differences }: Drift, colours: Colours): string[] {
  const { bold } = colours;
  const versions = recorded === now ? (now ?? "") : `${recorded ?? "?"} to ${now ?? "?"}`;
  const breaking = differences.filter(({ isBreaking }) => isBreaking);
  const harmless = differences.filter(({ isBreaking }) => !isBreaking);
  return [
    bold(
      `${module} ${versions}: ${counted(differences.length, "difference")} in what is used, ${breaking.length} breaking`,
    ),
    ...[...breaking, ...harmless].flatMap((assessedDifference) =>
      differenceLines(assessedDifference, colours),
    ),
  ];
}

function differenceLines(
  { kind, subject, before, now, isBreaking, errors, places }: AssessedDifference,
  { red, green, dim }: Colours,
): string[] {
  const shown = errors.slice(0, SHOWN).map(({ place, text }) => `      ${placeText(place)}  ${text}`);
  const usedIn = places.slice(0, SHOWN).map(placeText).join(", ");
  return [
    `  ${isBreaking ? red("breaking") : green("compatible")}  ${kind}  ${subject}`,
    `      before  ${before}`,
    `      now     ${now}`,
    ...shown,
    ...(errors.length > SHOWN ? [dim(`      and ${counted(errors.length - SHOWN, "more error")}`)] : []),
    ...(errors.length === 0 && usedIn !== ""
      ? [
          dim(
            `      used in ${usedIn}${places.length > SHOWN ? ` and ${counted(places.length - SHOWN, "more place")}` : ""}`,
          ),
        ]
      : []),
  ];
}
