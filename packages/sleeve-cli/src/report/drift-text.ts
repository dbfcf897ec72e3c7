import type { Drifted } from "../drift/command.ts";
import type { Drift, JudgedDifference } from "../drift/drift.ts";
import { placeText } from "../place.ts";
import { type Colours, counted } from "./terminal.ts";

const SHOWN = 3;

/** What has drifted, module by module: first what breaks. */
export function driftText(
  { drifts, recorded }: Pick<Drifted, "drifts" | "recorded">,
  colours: Colours,
): string {
  const { bold, green, dim } = colours;
  if (recorded) {
    if (recorded.length === 0)
      return "Nothing recorded: the project imports no outside module that is installed.\n";
    const names = recorded.map(({ module, version }) => `  ${module}  ${dim(version ?? "")}`.trimEnd());
    return [
      bold(`Recorded the surfaces of ${counted(recorded.length, "outside module")}, as they are used:`),
      ...names,
      "",
    ].join("\n");
  }
  const drifted = drifts.filter(({ differences }) => differences.length > 0);
  const lines = drifted.flatMap((each) => [...moduleLines(each, colours), ""]);
  const broken = drifts.filter(({ breaks }) => breaks).length;
  const compared = counted(drifts.length, "outside module");
  if (broken > 0)
    lines.push(
      colours.red(`${compared} compared with the record: ${broken} of them would break the project.`),
    );
  else if (drifted.length > 0)
    lines.push(green(`${compared} compared with the record: nothing breaks what is used.`));
  else lines.push(green(`${compared} compared with the record: nothing that is used has changed.`));
  return `${lines.join("\n")}\n`;
}

function moduleLines({ module, recorded, now, differences }: Drift, colours: Colours): string[] {
  const { bold } = colours;
  const versions = recorded === now ? (now ?? "") : `${recorded ?? "?"} to ${now ?? "?"}`;
  const breaking = differences.filter(({ breaks }) => breaks);
  const harmless = differences.filter(({ breaks }) => !breaks);
  return [
    bold(
      `${module} ${versions}: ${counted(differences.length, "difference")} in what is used, ${breaking.length} breaking`,
    ),
    ...[...breaking, ...harmless].flatMap((each) => differenceLines(each, colours)),
  ];
}

function differenceLines(
  { kind, subject, before, now, breaks, errors, places }: JudgedDifference,
  { red, green, dim }: Colours,
): string[] {
  const shown = errors.slice(0, SHOWN).map(({ place, text }) => `      ${placeText(place)}  ${text}`);
  const used = places.slice(0, SHOWN).map(placeText).join(", ");
  return [
    `  ${breaks ? red("breaks") : green("serves")}  ${kind}  ${subject}`,
    `      before  ${before}`,
    `      now     ${now}`,
    ...shown,
    ...(errors.length > SHOWN ? [dim(`      and ${counted(errors.length - SHOWN, "more error")}`)] : []),
    ...(errors.length === 0 && used !== ""
      ? [
          dim(
            `      used in ${used}${places.length > SHOWN ? ` and ${counted(places.length - SHOWN, "more place")}` : ""}`,
          ),
        ]
      : []),
  ];
}
