import { placeText } from "../place.ts";
import type { MemberUse, PackageSurvey, Survey } from "../survey/survey.ts";
import { type Colours, columns, counted } from "./terminal.ts";

const PACKAGES_SHOWN = 14;
const NOTES_SHOWN = 5;
const MEMBERS_SHOWN = 5;
const PLACES_SHOWN = 4;

/** A survey for the terminal: which to isolate first and why; with all the details where part of it was asked for. */
export function surveyText(survey: Survey, isDetailed: boolean, colours: Colours): string {
  const { files, packages } = survey;
  const [first] = packages;
  if (!first) {
    const what = isDetailed ? "Nothing of that is used in" : "No outside package reaches into";
    return `${what} the ${counted(files, "file")} of this project.\n`;
  }
  const lines = isDetailed
    ? packages.flatMap((each) => [...packageLines(each, survey, colours), ""])
    : [
        ...tableLines(survey, colours),
        ...firstLines(first, survey, colours),
        "",
        ...noteLines(survey, colours),
      ];
  return `${lines.join("\n").replace(/\n+$/, "")}\n`;
}

/** What members are: those that are used, or only the names that are imported. */
function membersWord({ level }: Pick<Survey, "level">): "member" | "name" {
  return level === "imports" ? "name" : "member";
}

function tableLines({ level, files, packages }: Survey, { bold, dim }: Colours): string[] {
  const shown = packages.slice(0, PACKAGES_SHOWN);
  const [head = "", ...rows] = columns([
    ["package", "version", "files", "imports", `${membersWord({ level })}s`, "leaks", "reach", "score"],
    ...shown.map(({ name, version, isInstalled, files: own, imports, members, leaks, reach, verdict }) => [
      name,
      version ?? (isInstalled ? "" : "not installed"),
      own.length,
      imports.length,
      members.length,
      leaks.length,
      reach.now,
      verdict.score.toFixed(2),
    ]),
  ]);
  const rest = packages.length - shown.length;
  return [
    bold(`${counted(packages.length, "outside package")} in ${counted(files, "file")}`),
    "",
    dim(head),
    ...rows,
    ...(rest > 0 ? [dim(`and ${counted(rest, "more package")}; --json lists them all`)] : []),
    "",
  ];
}

/** The package that it would pay most to isolate, and how that was reckoned. */
function firstLines(survey: PackageSurvey, whole: Survey, { bold, dim, yellow }: Colours): string[] {
  const { name, files, leaks, members, reach, verdict } = survey;
  const [leak] = leaks;
  const word = membersWord(whole);
  const use =
    whole.level === "imports"
      ? `${counted(members.length, "name is", "names are")} imported of it`
      : `an adapter would have to offer ${counted(members.length, "member")}`;
  return [
    `Isolate ${bold(name)} first.`,
    `  It reaches ${counted(files.length, "file")} and leaks into ${counted(leaks.length, "exported signature")}; ` +
      `${use}.`,
    `  When its types change, ${counted(reach.now, "file has", "files have")} to be checked again; isolated, ${reach.isolated}.`,
    dim(
      `  score ${verdict.score} = (${counted(files.length, "file")} + 2 x ${counted(leaks.length, "leak")})` +
        ` / square root of ${counted(Math.max(1, members.length), word)}`,
    ),
    "",
    ...columns(memberRows(members.slice(0, MEMBERS_SHOWN)), "  "),
    ...(members.length > MEMBERS_SHOWN
      ? [dim(`  and ${counted(members.length - MEMBERS_SHOWN, `more ${word}`)}`)]
      : []),
    ...(leak
      ? [`  ${yellow("leak")} ${leak.export} shows ${leak.shows} (${leak.how})  ${placeText(leak.place)}`]
      : []),
    ...(leaks.length > 1 ? [dim(`  and ${counted(leaks.length - 1, "more leak")}`)] : []),
    dim(`  --package ${name} tells all of it`),
  ];
}

/** What is odd about packages, or could not be followed. */
function noteLines({ packages, unresolved }: Survey, { dim, yellow }: Colours): string[] {
  const notes = packages.flatMap(({ name, standing, members }) => [
    ...(standing?.deprecated ? [`${name} is deprecated: ${standing.deprecated}`] : []),
    ...(standing && (standing.declared === "undeclared" || standing.declared === "transitive")
      ? [`${name} is imported and no manifest asks for it`]
      : []),
    ...(standing && standing.installed.length > 1
      ? [`${name} is there in ${standing.installed.join(", ")}`]
      : []),
    ...oddUses(name, members),
  ]);
  const blind = unresolved.map((place) => `${placeText(place)} imports what only running it can tell`);
  const all = [...notes, ...blind];
  return [
    ...all.slice(0, NOTES_SHOWN).map((note) => `${yellow("note")} ${note}`),
    ...(all.length > NOTES_SHOWN
      ? [dim(`and ${counted(all.length - NOTES_SHOWN, "more note")}; --json tells all`)]
      : []),
  ];
}

/** What an adapter will have to answer for. */
function oddUses(name: string, members: readonly MemberUse[]): string[] {
  const having = (kind: "extend" | "write" | "instanceof") =>
    members.filter(
      ({ kinds, member }) => kinds[kind] !== undefined && (kind !== "write" || !member.includes(".")),
    );
  const list = (found: readonly MemberUse[]) => found.map(({ member }) => member).join(", ");
  const extended = having("extend");
  const patched = having("write");
  return [
    ...(extended.length > 0 ? [`${name}: ${list(extended)} extended by classes of ours`] : []),
    ...(patched.length > 0 ? [`${name}: ${list(patched)} patched`] : []),
  ];
}

function packageLines(survey: PackageSurvey, whole: Survey, colours: Colours): string[] {
  const { name, version, standing, reach, verdict, imports, members, leaks } = survey;
  const { bold, dim, yellow } = colours;
  return [
    bold([name, ...(version === null ? [] : [version])].join(" ")),
    ...(standing ? [dim(`  ${standingText(standing)}`)] : []),
    dim(`  reach ${reach.now}, isolated ${reach.isolated}; score ${verdict.score}`),
    ...section(
      "imports",
      imports.map(({ place, forms }) => [placeText(place), forms.join(", ")]),
    ),
    ...(members.length > 0 ? ["", `  ${membersWord(whole)}s`] : []),
    ...members.flatMap((each) => memberLines(each, colours)),
    ...(leaks.length > 0 ? ["", `  ${yellow("leaks")}`] : []),
    ...columns(
      leaks.map(({ export: exported, shows, how, place }) => [
        exported,
        `shows ${shows}`,
        how,
        placeText(place),
      ]),
      "    ",
    ),
  ];
}

function standingText({
  declared,
  asked,
  installed,
  deprecated,
}: NonNullable<PackageSurvey["standing"]>): string {
  const versions = asked.length > 0 ? `, asked for as ${asked.join(", ")}` : "";
  const there = installed.length > 0 ? `, installed ${installed.join(", ")}` : "";
  return `${declared}${versions}${there}${deprecated === null ? "" : `, deprecated: ${deprecated}`}`;
}

function section(title: string, rows: readonly (readonly (string | number)[])[]): string[] {
  return rows.length > 0 ? ["", `  ${title}`, ...columns(rows, "    ")] : [];
}

function memberRows(members: readonly MemberUse[]): (string | number)[][] {
  return members.map(({ member, uses, kinds, places }) => [
    member,
    uses,
    kindsText(kinds),
    places[0] ? placeText(places[0]) : "",
  ]);
}

function memberLines({ member, uses, kinds, signatures, places }: MemberUse, { dim }: Colours): string[] {
  const shown = places.slice(0, PLACES_SHOWN).map(placeText).join(", ");
  const rest = places.length - PLACES_SHOWN;
  return [
    `    ${member}  ${uses}  ${kindsText(kinds)}`,
    ...signatures.map(
      (each) => `      ${each.signature}  ${dim(`sent ${each.sends}, ${counted(each.uses, "time")}`)}`,
    ),
    dim(`      ${shown}${rest > 0 ? ` and ${counted(rest, "more place")}` : ""}`),
  ];
}

function kindsText(kinds: MemberUse["kinds"]): string {
  return Object.entries(kinds)
    .map(([kind, count]) => `${kind} ${count}`)
    .join(", ");
}
