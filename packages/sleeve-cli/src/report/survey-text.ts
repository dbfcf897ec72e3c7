import { placeText } from "../place.ts";
import type { PackageSurvey, Survey } from "../survey/survey.ts";
import { type Colours, columns, counted } from "./terminal.ts";

const MEMBERS_SHOWN = 6;
const LEAKS_SHOWN = 4;
const FILES_SHOWN = 3;

/** A survey for the terminal: a table of the packages, what is used of each, and which to isolate first. */
export function surveyText({ files, packages }: Survey, colours: Colours): string {
  const { bold, dim } = colours;
  const [first] = packages;
  if (!first) return `No outside package reaches into the ${counted(files, "file")} of this project.\n`;
  const table = columns([
    ["package", "version", "files", "imports", "members", "leaks", "score"],
    ...packages.map(({ name, version, isInstalled, files: own, imports, members, leaks, verdict }) => [
      name,
      version ?? (isInstalled ? "" : "not installed"),
      own.length,
      imports.length,
      members.length,
      leaks.length,
      verdict.score.toFixed(2),
    ]),
  ]);
  const [head = "", ...rows] = table;
  return [
    bold(`${counted(packages.length, "outside package")} in ${counted(files, "file")}`),
    "",
    dim(head),
    ...rows,
    ...packages.flatMap((each) => ["", ...packageLines(each, colours)]),
    "",
    ...verdictLines(first, colours),
    "",
  ].join("\n");
}

function packageLines(
  { name, imports, members, leaks }: PackageSurvey,
  { bold, dim, yellow }: Colours,
): string[] {
  const used = members.slice(0, MEMBERS_SHOWN).map(({ member, uses, kinds, places }) => [
    member,
    uses,
    Object.entries(kinds)
      .map(([kind, count]) => `${kind} ${count}`)
      .join(", "),
    places[0] ? placeText(places[0]) : "",
  ]);
  return [
    bold(name),
    ...importLines(imports, dim),
    ...columns(used, "  "),
    ...more(members.length - MEMBERS_SHOWN, "member", dim),
    ...leaks
      .slice(0, LEAKS_SHOWN)
      .map(
        ({ export: exported, shows, how, place }) =>
          `  ${yellow("leak")} ${exported} shows ${shows} (${how})  ${placeText(place)}`,
      ),
    ...more(leaks.length - LEAKS_SHOWN, "leak", dim),
  ];
}

/** The files that import a package, each once, with the line of its first import. */
function importLines(imports: PackageSurvey["imports"], dim: Colours["dim"]): string[] {
  const lines = new Map<string, number>();
  for (const { place } of imports) if (!lines.has(place.file)) lines.set(place.file, place.line);
  const shown = [...lines].slice(0, FILES_SHOWN).map(([file, line]) => `${file}:${line}`);
  const rest = lines.size - shown.length;
  return [dim(`  imported in ${shown.join(", ")}${rest > 0 ? ` and ${counted(rest, "more file")}` : ""}`)];
}

function more(count: number, what: string, dim: Colours["dim"]): string[] {
  return count > 0 ? [dim(`  and ${counted(count, `more ${what}`)}; --json lists them all`)] : [];
}

function verdictLines(
  { name, files, leaks, members, verdict }: PackageSurvey,
  { bold, dim }: Colours,
): string[] {
  return [
    `Isolate ${bold(name)} first.`,
    `  It reaches ${counted(files.length, "file")} and leaks into ${counted(leaks.length, "exported signature")}; ` +
      `an adapter would have to offer ${counted(members.length, "member")}.`,
    dim(
      `  score ${verdict.score} = (${counted(files.length, "file")} + 2 x ${counted(leaks.length, "leak")})` +
        ` / square root of ${counted(Math.max(1, members.length), "member")}`,
    ),
  ];
}
